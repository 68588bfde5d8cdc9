import "@fontsource-variable/source-sans-3/wght.css";

import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter } from "react-router";
import { RouterProvider } from "react-router/dom";

import { Refused } from "./api/client";
import { App } from "./app/App";
import { must } from "./components/must";

// The server may stand on this very machine: that the browser knows no network keeps nothing back.
const networkMode = "always";

// Where a session has ended, whoever notices first leads back to signing in.
const queries: QueryClient = new QueryClient({
  queryCache: new QueryCache({
    onError: (error) => {
      if (error instanceof Refused && error.status === 401)
        void queries.invalidateQueries({ queryKey: ["me"] });
    },
  }),
  defaultOptions: {
    queries: { networkMode, staleTime: 60_000, retry: false, refetchOnWindowFocus: true },
    mutations: { networkMode },
  },
});

// The page's policy lets in only styles that carry its nonce (server/settings/base.py).
const nonce = document.querySelector<HTMLMetaElement>("meta[property=csp-nonce]")?.nonce;
const styles = createCache({ key: "ember", ...(nonce ? { nonce } : {}) });

const router = createBrowserRouter([{ path: "*", element: <App /> }]);

createRoot(must(document.getElementById("root"))).render(
  <StrictMode>
    <CacheProvider value={styles}>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} useTransitions={false} />
      </QueryClientProvider>
    </CacheProvider>
  </StrictMode>,
);

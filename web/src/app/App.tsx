import { Screen } from "../components/Frame";
import Typography from "@mui/material/Typography";
import CssBaseline from "@mui/material/CssBaseline";
import { ThemeProvider } from "@mui/material/styles";
import { lazy, Suspense } from "react";
import { Link, Navigate, Route, Routes, useLocation } from "react-router";

import { useMe } from "../api/hooks";
import { Broken } from "../components/Broken";
import { Told } from "../components/Told";
import { writeSo } from "../components/numbers";
import { Trouble, Waiting } from "../components/Said";
import { SettingsProvider } from "./settings";
import { Shell } from "./Shell";
import { SignIn } from "./SignIn";
import { theme } from "./theme";

const Fleet = lazy(() => import("../features/fleet/Fleet"));
const NewSystem = lazy(() => import("../features/new/NewSystem"));
const Setup = lazy(() => import("../features/setup/Setup"));
const Log = lazy(() => import("../features/log/Log"));
const Trust = lazy(() => import("../features/trust/Trust"));
const ProofPage = lazy(() => import("../features/proof/ProofPage"));
const Running = lazy(() => import("../features/running/Running"));
const Rating = lazy(() => import("../features/rating/Rating"));
const Season = lazy(() => import("../features/season/Season"));
const Money = lazy(() => import("../features/money/Money"));
const Changes = lazy(() => import("../features/changes/Changes"));

export function App() {
  return (
    <ThemeProvider theme={theme} defaultMode="system" modeStorageKey="mode">
      <CssBaseline enableColorScheme />
      <SettingsProvider>
        <Inside />
      </SettingsProvider>
    </ThemeProvider>
  );
}

function Inside() {
  const me = useMe();
  const { pathname } = useLocation();
  if (me.isPending) return <Waiting what="Honest Ember" />;
  if (me.isError) return <Trouble error={me.error} again={() => void me.refetch()} />;
  if (me.data.user === null) return <SignIn me={me.data} />;
  const { numbers, dates } = me.data.written;
  writeSo(me.data.written);
  return (
    <Shell>
      <Told>
        <Broken key={`${numbers} ${dates}`} place={pathname}>
          <Suspense fallback={<Waiting what="the screen" />}>
            <Routes>
              <Route path="/" element={<Navigate to="/fleet" replace />} />
              <Route path="/fleet" element={<Fleet />} />
              <Route path="/new" element={<NewSystem />} />
              <Route path="/systems/:pk/setup" element={<Setup />} />
              <Route path="/systems/:pk/log" element={<Log />} />
              <Route path="/systems/:pk/trust" element={<Trust />} />
              <Route path="/proofs/:key" element={<ProofPage />} />
              <Route path="/systems/:pk/running" element={<Running />} />
              <Route path="/systems/:pk/rating" element={<Rating />} />
              <Route path="/systems/:pk/season" element={<Season />} />
              <Route path="/systems/:pk/money" element={<Money />} />
              <Route path="/systems/:pk/changes" element={<Changes />} />
              <Route path="*" element={<NoSuch />} />
            </Routes>
          </Suspense>
        </Broken>
      </Told>
    </Shell>
  );
}

function NoSuch() {
  return (
    <Screen>
      <Typography variant="h1">There is no such screen</Typography>
      <Typography color="textSecondary">
        The address may be misspelt. <Link to="/fleet">Go to the fleet.</Link>
      </Typography>
    </Screen>
  );
}

/** What screens ask of the server, by name. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { api, got, type Job } from "./client";
import { fetchWindow } from "./window";
import { must } from "../components/must";
import { useTell } from "../components/Told";

const OVER = ["done", "failed", "cancelled", "interrupted"];

export const isOver = (job: Job) => OVER.includes(job.state);

export function useMe() {
  return useQuery({ queryKey: ["me"], queryFn: () => got(api.GET("/api/v1/me")), staleTime: Infinity });
}

export function useFleet() {
  return useQuery({
    queryKey: ["fleet"],
    queryFn: () => got(api.GET("/api/v1/systems")),
    refetchInterval: (query) => (query.state.data?.rows.some((row) => row.working) ? 1500 : false),
  });
}

export function useSystem(pk: number) {
  return useQuery({
    queryKey: ["system", pk],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}", { params: { path: { pk } } })),
    enabled: pk > 0,
  });
}

export interface Stretch {
  start: string;
  stop: string;
}

export function useSpan(pk: number, stretch: Stretch | null) {
  return useQuery({
    queryKey: ["system", pk, "span", stretch],
    queryFn: () =>
      got(api.GET("/api/v1/systems/{pk}/span", { params: { path: { pk }, query: must(stretch) } })),
    enabled: pk > 0 && stretch !== null,
    placeholderData: keepPreviousData,
  });
}

export function windowQuery(pk: number, stretch: Stretch, points: number, further = "") {
  return {
    queryKey: ["system", pk, "window", stretch, points, further],
    queryFn: () => fetchWindow(pk, stretch.start, stretch.stop, points, further),
  };
}

/** Tables of how the unit ran, one hook each; the one before stays while the next is fetched. */
const kept = { placeholderData: keepPreviousData };

export interface RunsAsked {
  order: "time" | "length" | "electricity" | "heat" | "cop" | "outdoor" | "pause";
  descending: boolean;
  first: number;
  by?: Exclude<RunsAsked["order"], "time">;
  least?: number;
  most?: number;
  mode?: string;
}

export function useRuns(pk: number, stretch: Stretch, asked: RunsAsked) {
  const query = { ...stretch, ...asked, count: 100 };
  return useQuery({
    queryKey: ["system", pk, "runs", query],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/runs", { params: { path: { pk }, query } })),
    ...kept,
  });
}

export interface StartsAsked {
  mode?: string;
  outdoor_low?: number;
  outdoor_high?: number;
  pause_low?: number;
  pause_high?: number;
}

export function useStarts(pk: number, stretch: Stretch, asked: StartsAsked) {
  const query = { ...stretch, ...asked };
  return useQuery({
    queryKey: ["system", pk, "starts", query],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/starts", { params: { path: { pk }, query } })),
    ...kept,
  });
}

export function useDefrosts(pk: number, query: Stretch) {
  return useQuery({
    queryKey: ["system", pk, "defrosts", query],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/defrosts", { params: { path: { pk }, query } })),
    ...kept,
  });
}

export function useWater(pk: number, query: Stretch) {
  return useQuery({
    queryKey: ["system", pk, "hot-water", query],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/hot-water", { params: { path: { pk }, query } })),
    ...kept,
  });
}

export function useControl(pk: number, query: Stretch) {
  return useQuery({
    queryKey: ["system", pk, "control", query],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/control", { params: { path: { pk }, query } })),
    ...kept,
  });
}

export function useInside(pk: number, query: Stretch) {
  return useQuery({
    queryKey: ["system", pk, "inside", query],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/inside", { params: { path: { pk }, query } })),
    ...kept,
  });
}

export function useUnits(pk: number, query: Stretch) {
  return useQuery({
    queryKey: ["system", pk, "units", query],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/units", { params: { path: { pk }, query } })),
    ...kept,
  });
}

export function useRating(pk: number, stretch: Stretch | null) {
  return useQuery({
    queryKey: ["system", pk, "rating", stretch],
    queryFn: () =>
      got(api.GET("/api/v1/systems/{pk}/rating", { params: { path: { pk }, query: must(stretch) } })),
    enabled: stretch !== null,
    placeholderData: keepPreviousData,
  });
}

export function useSame(pk: number, query: Stretch) {
  return useQuery({
    queryKey: ["system", pk, "same", query],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/same", { params: { path: { pk }, query } })),
    ...kept,
  });
}

export function useFindings(pk: number) {
  return useQuery({
    queryKey: ["system", pk, "findings"],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/findings", { params: { path: { pk } } })),
  });
}

export interface FindingStatusAsked {
  code: string;
  state: string;
  reason: string;
  fixed_on: string | null;
}

/** Accepts, dismisses, marks as fixed, or opens a finding again. */
export function useFindingStatus(pk: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ code, ...body }: FindingStatusAsked) =>
      got(api.PUT("/api/v1/systems/{pk}/findings/{code}", { params: { path: { pk, code } }, body })),
    onSuccess: (found) => {
      queries.setQueryData(["system", pk, "findings"], found);
      for (const queryKey of [["fleet"], ["news"]]) void queries.invalidateQueries({ queryKey });
    },
  });
}

export function useRated(pk: number) {
  return useQuery({
    queryKey: ["system", pk, "rated"],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/rated", { params: { path: { pk } } })),
  });
}

export function useLimits(pk: number) {
  return useQuery({
    queryKey: ["system", pk, "limits"],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/thresholds", { params: { path: { pk } } })),
  });
}

export function useNews() {
  return useQuery({ queryKey: ["news"], queryFn: () => got(api.GET("/api/v1/news")) });
}

export function useTrust(pk: number, stretch: Stretch | null) {
  return useQuery({
    queryKey: ["system", pk, "trust", stretch],
    queryFn: () =>
      got(api.GET("/api/v1/systems/{pk}/trust", { params: { path: { pk }, query: must(stretch) } })),
    enabled: stretch !== null,
    placeholderData: keepPreviousData,
  });
}

type Corrections = Record<string, unknown>[];

/** Accepts corrections; the figures are worked out anew meanwhile. */
function correct(pk: number, what: "accept" | "withdraw", corrections: Corrections) {
  const asked = { params: { path: { pk } }, body: { corrections } };
  return what === "accept"
    ? got(api.POST("/api/v1/systems/{pk}/corrections", asked))
    : got(api.POST("/api/v1/systems/{pk}/corrections/withdraw", asked));
}

function useCorrect(pk: number, what: "accept" | "withdraw") {
  const forget = useForget();
  const tell = useTell();
  return useMutation({
    mutationFn: (corrections: Corrections) => correct(pk, what, corrections),
    onSuccess: (_, corrections) => {
      forget(pk);
      const said = what === "accept" ? "Accepted" : "Taken back";
      tell(`${said}; the figures are being worked out anew.`, async () => {
        await correct(pk, what === "accept" ? "withdraw" : "accept", corrections);
        forget(pk);
      });
    },
  });
}

export const useAccept = (pk: number) => useCorrect(pk, "accept");

/** Takes corrections back. */
export const useWithdraw = (pk: number) => useCorrect(pk, "withdraw");

export function useMoney(pk: number, stretch: Stretch | null) {
  return useQuery({
    queryKey: ["system", pk, "money", stretch],
    queryFn: () =>
      got(api.GET("/api/v1/systems/{pk}/money", { params: { path: { pk }, query: must(stretch) } })),
    enabled: stretch !== null,
    placeholderData: keepPreviousData,
  });
}

export function useEvents(pk: number) {
  return useQuery({
    queryKey: ["system", pk, "events"],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/events", { params: { path: { pk } } })),
  });
}

export function useObservations(pk: number) {
  return useQuery({
    queryKey: ["observations", pk],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/observations", { params: { path: { pk } } })),
  });
}

export function useImports(pk: number) {
  return useQuery({
    queryKey: ["system", pk, "imports"],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/imports", { params: { path: { pk } } })),
  });
}

export function useJobs(pk: number) {
  return useQuery({
    queryKey: ["jobs", pk],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/jobs", { params: { path: { pk } } })),
    refetchInterval: (query) => (query.state.data?.some((job) => !isOver(job)) ? 400 : false),
    staleTime: 0,
  });
}

export function useChannels(pk: number) {
  return useQuery({
    queryKey: ["channels", pk],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/channels", { params: { path: { pk } } })),
  });
}

/** What an ended job has changed is asked for anew. */
export function useForget() {
  const queries = useQueryClient();
  return (pk: number) => {
    for (const queryKey of [["system", pk], ["setup", pk], ["fleet"]])
      void queries.invalidateQueries({ queryKey });
  };
}

export function useJobAction(pk: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ job, action }: { job: number; action: "cancel" | "go-on" }) =>
      action === "cancel"
        ? got(api.POST("/api/v1/jobs/{pk}/cancel", { params: { path: { pk: job } } }))
        : got(api.POST("/api/v1/jobs/{pk}/go-on", { params: { path: { pk: job } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["jobs", pk] }),
  });
}

/** Works a system's figures out anew. */
export function useRenew() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (pk: number) => got(api.PUT("/api/v1/systems/{pk}/figures", { params: { path: { pk } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["fleet"] }),
  });
}

/** When the worker is done with a system, what is shown of it is asked for anew. */
export function useFollowWork() {
  const fleet = useFleet();
  const queries = useQueryClient();
  const before = useRef(new Set<number>());
  useEffect(() => {
    const now = new Set((fleet.data?.rows ?? []).filter((row) => row.working).map((row) => row.id));
    for (const pk of before.current)
      if (!now.has(pk)) void queries.invalidateQueries({ queryKey: ["system", pk] });
    before.current = now;
  }, [fleet.data, queries]);
}

/** An instrument that is read live while its test is on screen. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import type { AskedTest } from "../api/queries";

const EVERY_MS = 700;
const READABLE = ["voltage", "current", "resistance", "continuity"];
const SLOT = "percorso.meter";

export type Meter = {
  names: string[];
  name: string;
  choose: (name: string) => void;
  isLive: boolean;
  canRead: boolean;
  toggle: () => void;
  value: number | null;
  outcome: string | null;
  identity: string;
  problem: string;
};

export function useMeter(jobId: string, test: AskedTest | undefined, instruments: { name: string }[]): Meter {
  const names = instruments.map((each) => each.name);
  const [wanted, setWanted] = useState(() => localStorage.getItem(SLOT) ?? "");
  const [isLive, setLive] = useState(false);
  const name = names.includes(wanted) ? wanted : (names[0] ?? "");
  const canRead = name !== "" && test !== undefined && READABLE.includes(test.measurement.quantity);
  const { measurement } = test ?? {};
  const reading = useQuery({
    queryKey: ["meter", jobId, name, measurement],
    enabled: isLive && canRead,
    gcTime: 0,
    retry: false,
    refetchInterval: EVERY_MS,
    queryFn: ({ signal }) =>
      answer(
        api.POST("/api/jobs/{job_id}/instruments/read", {
          params: { path: { job_id: jobId } },
          body: { name, measurement: measurement ?? { quantity: "voltage" } },
          signal,
        }),
      ),
  });
  const shown = isLive && canRead && !reading.isError ? reading.data : undefined;
  return {
    names,
    name,
    choose: (chosen) => {
      localStorage.setItem(SLOT, chosen);
      setWanted(chosen);
    },
    isLive: isLive && canRead,
    canRead,
    toggle: () => canRead && setLive(!isLive),
    value: shown?.value ?? null,
    outcome: shown?.outcome ?? null,
    identity: shown?.identity ?? "",
    problem: isLive && reading.isError ? reading.error.message : "",
  };
}

/** What the looks at suspects and at tests show, asked only while one looks so. */
import { useStage } from "../api/queries";
import { useChecks } from "../checks/queries";
import { askedOf, useCase } from "../trace/useCase";
import { useTrace } from "../trace/useTrace";
import type { Known, Look } from "./looks";

export function useKnown(jobId: string, look: Look): Known {
  const stage = useStage(jobId);
  const { known } = useCase(jobId, stage);
  const traced = useTrace(jobId, askedOf(known, stage), look === "suspects").data;
  const checks = useChecks(jobId, null, look === "tests").data;
  return { suspicion: traced?.of_metal ?? null, tests: checks?.tests ?? [], stage };
}

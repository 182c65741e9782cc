/** What the rules noticed, said as a colleague would, with the cure one key away. */
import type { Finding } from "../api/queries";
import { sizeName } from "./format";
import { OnTheMap } from "./OnTheMap";

const SHAPE = { error: "■", caution: "▲", hint: "●" };

type Props = {
  findings: Finding[];
  onShow: (finding: Finding) => void;
  onTry?: (finding: Finding) => void;
  nothing?: string;
  /** The job on whose map each can be looked at. */
  jobId?: string;
};

export function Findings({ findings, onShow, onTry, nothing, jobId }: Props) {
  if (findings.length === 0) return <p className="quiet">{nothing ?? "No problems found on this route."}</p>;
  return (
    <ul className="findings">
      {findings.map((finding) => (
        <li
          key={`${finding.title} ${finding.segment_ids} ${finding.device_ids}`}
          className={finding.severity}
        >
          <span aria-hidden="true">{SHAPE[finding.severity]}</span>
          <strong>{finding.title}</strong> {finding.reason}{" "}
          {partsOf(finding).length > 0 && (
            <button type="button" className="link" onClick={() => onShow(finding)}>
              Show
            </button>
          )}{" "}
          {jobId && partsOf(finding).length > 0 && <OnTheMap jobId={jobId} parts={partsOf(finding)} />}{" "}
          {finding.cure && onTry && (
            <button type="button" className="link" onClick={() => onTry(finding)}>
              Try {sizeName(finding.cure.effect)}
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}

/** The parts that a finding is about. */
export const partsOf = ({ segment_ids, device_ids }: Finding) => [...segment_ids, ...(device_ids ?? [])];

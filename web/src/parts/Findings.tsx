/** What the rules noticed, said as a colleague would, with the cure one key away. */
import type { Finding } from "../api/queries";
import { sizeName } from "./format";

const SHAPE = { error: "■", caution: "▲", hint: "●" };

type Props = {
  findings: Finding[];
  onShow: (finding: Finding) => void;
  onTry?: (finding: Finding) => void;
  nothing?: string;
};

export function Findings({ findings, onShow, onTry, nothing }: Props) {
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
          {finding.segment_ids.length + (finding.device_ids ?? []).length > 0 && (
            <button type="button" className="link" onClick={() => onShow(finding)}>
              Show
            </button>
          )}{" "}
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

/** The mark of a device in a state: told apart by shape alone, at a glance and without colour. */
import type { Cell, ProofView } from "../api/queries";

export type Mark = Cell["mark"] | "ready";

type Often = ProofView["often"][number]["runs"] | undefined;

/** What rests and runs with other switches is ready; how often it runs comes with the proof, later than the rest. */
export const markOf = ({ mark }: Cell, often: Often): Mark =>
  mark === "rests" && often === "sometimes" ? "ready" : mark;

export const MARKS: Record<Mark, string> = {
  "as it must": "on as it must be",
  may: "on, free to be",
  ready: "off, a switch away",
  rests: "off",
  "must not": "on, must be off",
  must: "off, must be on",
  "too little": "low voltage",
  chatters: "chatters",
};

export function StateMark({ mark }: { mark: Mark }) {
  return (
    <svg
      width={14}
      height={14}
      viewBox="-7 -7 14 14"
      aria-hidden="true"
      className={`state-mark ${CLASS[mark]}`}
    >
      <Shape mark={mark} />
    </svg>
  );
}

const CLASS: Record<Mark, string> = {
  "as it must": "right",
  may: "free",
  ready: "free",
  rests: "still",
  "must not": "wrong",
  must: "wrong",
  "too little": "free",
  chatters: "wrong",
};

function Shape({ mark }: { mark: Mark }) {
  switch (mark) {
    case "as it must":
      return <circle r={5.5} className="solid" />;
    case "may":
      return (
        <>
          <circle r={5} className="outline" />
          <path d="M0,-5A5,5 0 0 0 0,5Z" className="solid" />
        </>
      );
    case "ready":
      return <circle r={5} className="outline" />;
    case "rests":
      return <path d="M-4,0H4" className="outline" />;
    case "must not":
      return <rect x={-5.5} y={-5.5} width={11} height={11} className="solid" />;
    case "must":
      return <path d="M-5,-5H5V5H-5ZM-5,5L5,-5" className="outline" />;
    case "too little":
      return <path d="M-5,-4H5L0,5Z" className="outline" />;
    case "chatters":
      return <path d="M-6,2L-3,-4L0,4L3,-4L6,2" className="outline" />;
  }
}

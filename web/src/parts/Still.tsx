/** Said while something is computed: what, and where that takes more than a second how far it is. */
import { useEffect, useState } from "react";
import { useUnderWay } from "../api/queries";

const ASKS_AFTER_MS = 1000;

export function Still({ jobId, room, className = "", children }: StillProps) {
  const [isLong, setLong] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLong(true), ASKS_AFTER_MS);
    return () => clearTimeout(timer);
  }, []);
  const here = useUnderWay(jobId, isLong).data?.find((each) => each.room.startsWith(room));
  const far = here?.waits ? "after what you asked before" : here?.of ? `${here.done} of ${here.of}` : "";
  return (
    <p className={`${className} quiet`} role="status">
      {children} {far}
    </p>
  );
}

interface StillProps {
  jobId: string;
  /** The room's part of the address. */
  room: string;
  className?: string;
  children: string;
}

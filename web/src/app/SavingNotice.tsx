/** Says how saving goes, asks when two people changed the same thing, and never hides a change that was refused. */
import { Button } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useUnexpected } from "../api/unexpected";
import { clock } from "../parts/format";
import { throwAsideAway, tryAsideAgain } from "../saving/saving";
import { othersWaiting } from "../saving/slots";
import { dismissRefused, type SavingState, useSaving } from "../saving/store";

const MOST_NAMED = 3; // of what stepped aside

/** The one-line status in the footer. */
export function SavingStatus() {
  const saving = useSaving();
  if (saving.trouble) return <span role="status">waiting to save {saving.waiting}</span>;
  if (saving.waiting > 0) return <span role="status">saving …</span>;
  return (
    <span role="status">
      {saving.lastSaved ? `${saving.lastLabel} · saved ${clock(saving.lastSaved)}` : saving.lastLabel}
    </span>
  );
}

/** The bar under the header while something is wrong. */
export function SavingTrouble({ readingFails }: { readingFails: string | undefined }) {
  const { trouble, refused, aside, waiting } = useSaving();
  if (refused.length > 0) {
    return (
      <div className="trouble" role="alert">
        <span>
          {refused.map(({ write, error }) => (
            <p key={write.key}>
              “{write.what}” was not saved: {error.message}
            </p>
          ))}
        </span>
        <Button size="compact-sm" variant="default" onClick={dismissRefused}>
          Understood
        </Button>
      </div>
    );
  }
  if (aside.length > 0 && !trouble) return <Aside aside={aside} />;
  if (!trouble && !readingFails) return null;
  const kept =
    waiting > 0
      ? ` ${waiting === 1 ? "Your change is" : `Your ${waiting} changes are`} kept and saved when it is back.`
      : "";
  return (
    <div className="trouble passing" role="alert">
      {reasonOf(trouble?.code, trouble?.message ?? readingFails ?? "")}.{kept} Trying again …
    </div>
  );
}

/** What the server did not take, for a reason that is not in it: kept until it is sent again, or thrown away. */
function Aside({ aside }: { aside: SavingState["aside"] }) {
  const [isSure, setSure] = useState(false);
  return (
    <div className="trouble" role="alert">
      <span>
        {aside.slice(0, MOST_NAMED).map(({ write, reason }) => (
          <p key={write.key}>
            “{write.what}” is not saved, and kept in this browser: {reason}
          </p>
        ))}
        {aside.length > MOST_NAMED && <p>and {aside.length - MOST_NAMED} more</p>}
      </span>
      <Button size="compact-sm" variant="default" onClick={tryAsideAgain}>
        Try again
      </Button>
      <Button size="compact-sm" variant="default" onClick={isSure ? throwAsideAway : () => setSure(true)}>
        {isSure ? "Throw away for good" : "Throw away"}
      </Button>
    </div>
  );
}

/** Says of whom else something waits in this browser. */
export function OthersWaiting({ person }: { person: string }) {
  const others = [...othersWaiting(person)];
  if (others.length === 0) return null;
  return (
    <p className="quiet others-waiting">
      {others.map(
        ([name, count]) =>
          `${count === 1 ? "1 change" : `${count} changes`} of ${name} wait${count === 1 ? "s" : ""} in this browser until ${name} signs in. `,
      )}
    </p>
  );
}

/** The bar that says that something on the screen did not come, and asks for it again. */
export function Unexpected() {
  const message = useUnexpected();
  const client = useQueryClient();
  if (message === null) return null;
  const again = () =>
    client.refetchQueries({ type: "active", predicate: ({ state }) => state.status === "error" });
  return (
    <div className="trouble" role="alert">
      Part of this screen did not come: {message}. A blank here does not mean OK.
      <Button size="compact-sm" variant="default" onClick={() => void again()}>
        Ask again
      </Button>
    </div>
  );
}

function reasonOf(code: string | undefined, message: string): string {
  if (code === "database-away") return "The database is away";
  if (code === "offline") return "The server is out of reach";
  if (code === "signed-out") return "You are signed out; sign in again in another tab";
  return message.charAt(0).toUpperCase() + message.slice(1);
}

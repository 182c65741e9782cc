/** Says how saving goes, asks when two people changed the same thing, and never hides a change that was refused. */
import { Button, Group, Modal, Table, Text } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import {
  type Conflict,
  decideConflict,
  dismissRefused,
  type SavingState,
  throwAsideAway,
  tryAsideAgain,
  useSaving,
} from "../api/saving";
import { useUnexpected } from "../api/unexpected";
import { othersWaiting } from "../offline/slots";
import { clock } from "../parts/format";

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

/** Both values of everything that two people changed. */
export function ConflictDialog() {
  const { conflict } = useSaving();
  if (!conflict) return null;
  return (
    <Modal
      opened
      onClose={() => undefined}
      withCloseButton={false}
      title="Changed by someone else meanwhile"
      centered
    >
      <Text mb="sm">
        While you worked on “{conflict.write.what}”, {conflict.error.message}. Nothing is lost: choose which
        one stays.
      </Text>
      <Table verticalSpacing={4}>
        <Table.Thead>
          <Table.Tr>
            <Table.Th />
            <Table.Th>yours</Table.Th>
            <Table.Th>theirs</Table.Th>
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody>
          {bothValues(conflict).map(({ name, mine, theirs }) => (
            <Table.Tr key={name}>
              <Table.Td>{name}</Table.Td>
              <Table.Td className="mono">{mine}</Table.Td>
              <Table.Td className="mono">{theirs}</Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
      <Group justify="flex-end" mt="md">
        <Button variant="default" onClick={() => decideConflict(false)}>
          Keep theirs
        </Button>
        <Button onClick={() => decideConflict(true)}>Keep mine</Button>
      </Group>
    </Modal>
  );
}

type Both = { name: string; mine: string; theirs: string };

/** What was to become of the row that somebody changed, value by value, beside what it is now. */
function bothValues({ write, error }: Conflict): Both[] {
  const current = error.current ?? {};
  const edits = (write.body?.edits ?? []) as Record<string, unknown>[];
  const about = edits.find((edit) => Object.values(edit).includes(error.row)) ?? write.body ?? {};
  const said = Object.entries(about).filter(([field, value]) => field !== "do" && value !== error.row);
  if (`${about.do ?? ""}`.startsWith("remove")) return [{ name: "this", mine: "deleted", theirs: "changed" }];
  return said.flatMap(([field, value]) => {
    const theirs = field === "change" ? current.spec : (current[field] ?? current[`${field}_id`]);
    if (!isRecord(value)) {
      const other = text({ [field]: theirs, typed: current.typed }, field);
      return [{ name: plain(field), mine: `${value}`, theirs: other }];
    }
    const now = isRecord(theirs) ? theirs : {};
    return Object.entries(value).map(([name, mine]) => ({
      name: plain(name),
      mine: `${mine}`,
      theirs: text(now, name),
    }));
  });
}

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null;
const plain = (name: string) => name.replace(/_(m|a|v|ohm|id)$/, "").replaceAll("_", " ");

/** A value as its author typed it, if that was kept. */
function text(values: Record<string, unknown>, name: string): string {
  const typed = isRecord(values.typed) ? values.typed[name] : undefined;
  return `${typed ?? values[name] ?? "—"}`;
}

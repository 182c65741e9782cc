/** Two values for one thing, written by two people: which is to hold. */
import { Button, Group, Modal, Table, Text } from "@mantine/core";
import { decideConflict } from "../saving/conflict";
import { type Conflict, useSaving } from "../saving/store";

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

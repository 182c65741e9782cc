/** The list of keys, opened with `?`. */
import { Modal, Table } from "@mantine/core";
import { Fragment } from "react";
import { keyName, useKeyGroups } from "./keys";

export function KeysHelp({ onClose }: { onClose: () => void }) {
  const groups = useKeyGroups();
  return (
    <Modal
      opened
      onClose={onClose}
      title="Keys"
      size="md"
      centered
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Table verticalSpacing={4}>
        <Table.Tbody>
          {groups.toReversed().map((group) => (
            <Fragment key={group.title}>
              <Table.Tr>
                <Table.Th colSpan={2}>{group.title}</Table.Th>
              </Table.Tr>
              {group.bindings.map((binding) => (
                <Table.Tr key={binding.keys}>
                  <Table.Td w={150}>
                    {binding.keys.split(" ").map((key) => (
                      <kbd key={key}>{keyName(key)}</kbd>
                    ))}
                  </Table.Td>
                  <Table.Td>{binding.does}</Table.Td>
                </Table.Tr>
              ))}
            </Fragment>
          ))}
        </Table.Tbody>
      </Table>
    </Modal>
  );
}

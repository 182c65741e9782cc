/** The frame of every form: a title, the fields, what was said about the whole, and one button. */
import { Button, Group, Modal, Stack, Text } from "@mantine/core";
import type { ReactNode } from "react";

type Props = {
  title: string;
  action: string;
  busy: boolean;
  remark: string | undefined;
  onSubmit: () => void;
  onClose: () => void;
  children: ReactNode;
  size?: string;
};

export function FormModal({ title, action, busy, remark, onSubmit, onClose, children, size }: Props) {
  return (
    <Modal
      opened
      onClose={onClose}
      title={title}
      size={size ?? "md"}
      centered
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onSubmit();
        }}
        noValidate
      >
        <Stack gap="sm">
          {children}
          {remark && (
            <Text role="alert" className="problem">
              {remark}
            </Text>
          )}
          <Group justify="flex-end">
            <Button variant="default" onClick={onClose}>
              Cancel
            </Button>
            <Button type="submit" loading={busy}>
              {action}
            </Button>
          </Group>
        </Stack>
      </form>
    </Modal>
  );
}

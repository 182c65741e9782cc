/** A button that asks for a file; the same one can be chosen again once it was mended. */
import { Button, FileButton } from "@mantine/core";
import { useRef } from "react";

type Props = { accept: string; label?: string; children: string; onPick: (file: File) => void };

export function FilePick({ accept, label = "", children, onPick }: Props) {
  const forget = useRef<() => void>(null);
  function pick(file: File | null) {
    forget.current?.();
    if (file) onPick(file);
  }
  return (
    <FileButton accept={accept} resetRef={forget} onChange={pick}>
      {(props) => (
        <Button {...props} variant="default" size="compact-md" aria-label={label || children}>
          {children}
        </Button>
      )}
    </FileButton>
  );
}

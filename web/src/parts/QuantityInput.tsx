/** One field for every quantity: takes what people type, shows what was understood, keeps what was typed. */
import { TextInput, type TextInputProps } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { type QuantityKind, useUnderstood } from "../api/queries";

type Props = Omit<TextInputProps, "onChange" | "value"> & {
  kind: QuantityKind;
  value: string;
  onChange: (text: string) => void;
};

export function QuantityInput({ kind, value, onChange, error, ...rest }: Props) {
  const [settled] = useDebouncedValue(value, 250);
  const understood = useUnderstood(kind, settled);
  const hint = value.trim() && settled === value && understood.isError ? understood.error.message : undefined;
  const wrong = error ?? hint;
  const shown = value.trim() && settled === value && understood.data ? understood.data.shown : "\u00a0";
  return (
    <TextInput
      {...rest}
      value={value}
      onChange={(event) => onChange(event.currentTarget.value)}
      error={wrong}
      description={wrong ? undefined : shown}
      inputWrapperOrder={["label", "input", "description", "error"]}
      autoComplete="off"
      spellCheck={false}
    />
  );
}

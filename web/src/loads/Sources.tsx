/** What feeds the loads: the alternator and the battery. */
import { Button } from "@mantine/core";
import type { Budget } from "../api/queries";
import type { Dialog } from "./dialog";

/** Battery and alternator in a line each, or what to do while there is none. */
export function Sources({ budget, onDialog }: { budget: Budget; onDialog: (dialog: Dialog) => void }) {
  return (
    <div className="sources">
      {(["battery", "alternator"] as const).map((kind) => {
        const source = budget[kind];
        const open = () => onDialog({ what: "source", kind, id: source?.id });
        if (!source) {
          return (
            <Button key={kind} size="compact-md" variant="default" onClick={open}>
              Say what {kind} there is
            </Button>
          );
        }
        return (
          <button type="button" className="link" key={kind} onClick={open} title={source.name}>
            {described(source.spec)}
          </button>
        );
      })}
    </div>
  );
}

function described(spec: NonNullable<Budget["battery"]>["spec"]): string {
  if (spec.kind === "battery") {
    return `Battery ${spec.capacity_ah} Ah, ${spec.state_of_charge_percent} %`;
  }
  if (spec.kind === "alternator") {
    return `Alternator ${spec.at_1800_a}/${spec.at_6000_a} A`;
  }
  return spec.kind;
}

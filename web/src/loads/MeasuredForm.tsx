/** What a clamp or a meter says a load draws. */
import type { LedgerLoad } from "../api/queries";
import { save } from "../api/saving";
import { FormModal } from "../parts/FormModal";
import { SpecFields } from "../parts/SpecFields";
import { asSpec, asTexts } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { MEASURED } from "../vehicle/deviceKinds";

export function MeasuredForm({ load, onClose }: { load: LedgerLoad; onClose: () => void }) {
  const form = useForm<Record<string, string>>(asTexts(MEASURED, load.spec));
  const { id: row, version } = load;

  function send() {
    const said = form.values.measured_a?.trim() ? form.values : {};
    const spec = asSpec(load.spec.kind, MEASURED, said);
    return save({
      what: `measured ${load.name}`,
      method: "PATCH",
      path: `/api/devices/${row}`,
      row,
      version,
      body: { spec },
    });
  }

  return (
    <FormModal
      title={`${load.name}, measured`}
      action="Save"
      busy={form.busy}
      remark={form.remark(MEASURED.map((field) => `spec.${field.name}`))}
      onSubmit={() => void form.submit(send, onClose)}
      onClose={onClose}
    >
      <p className="quiet">
        In series with a meter, or with a clamp around its lead; hands and leads clear of fans and belts while
        the engine runs. Measured beats the plate.
      </p>
      <SpecFields fields={MEASURED} form={form} />
    </FormModal>
  );
}

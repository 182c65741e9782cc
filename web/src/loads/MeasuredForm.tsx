/** What a clamp or a meter says a load draws. */
import { type FormField, type LedgerLoad, useForms } from "../api/queries";
import { FormModal } from "../parts/FormModal";
import { SpecFields } from "../parts/SpecFields";
import { asSpec, asTexts, fieldsOf, type Values } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { change, type Edit } from "../saving/saving";

type Props = { jobId: string; load: LedgerLoad; onClose: () => void };

export function MeasuredForm(props: Props) {
  const forms = useForms().data;
  if (!forms) return null;
  const fields = fieldsOf(forms, props.load.spec.kind).filter(({ part }) => part === "measured");
  return <Form {...props} fields={fields.map((field) => ({ ...field, more: false }))} />;
}

function Form({ jobId, load, onClose, fields }: Props & { fields: FormField[] }) {
  const form = useForm<Values>(asTexts(fields, load.spec));

  function send() {
    const said = form.values.measured_a?.trim() ? form.values : {};
    const spec = asSpec(load.spec.kind, fields, said);
    const edit: Edit = { do: "change device", device_id: load.id, change: spec };
    return change(jobId, `measured ${load.name}`, [edit], { seen: [load], label: `measured ${load.name}` });
  }

  return (
    <FormModal
      title={`${load.name}, measured`}
      action="Save"
      busy={form.busy}
      remark={form.remark(fields.map((field) => `spec.${field.name}`))}
      onSubmit={() => void form.submit(send, onClose)}
      onClose={onClose}
    >
      <p className="quiet">
        In series with a meter, or with a clamp around its lead; hands and leads clear of fans and belts while
        the engine runs. Measured beats the plate.
      </p>
      <SpecFields fields={fields} form={form} />
    </FormModal>
  );
}

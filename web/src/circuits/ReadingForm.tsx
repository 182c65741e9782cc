/** Logs what the meter said across part of the circuit, or corrects an earlier reading with a new one. */
import { Select, SimpleGrid, Text, TextInput } from "@mantine/core";
import type { Schemas } from "../api/client";
import { type CircuitView, type Reading, useBoard, useStage } from "../api/queries";
import { useViewing } from "../app/viewing";
import { FormModal } from "../parts/FormModal";
import { amps, voltage } from "../parts/format";
import { QuantityInput } from "../parts/QuantityInput";
import { useForm } from "../parts/useForm";
import { useWords } from "../parts/useWords";
import { save } from "../saving/saving";

type Props = { view: CircuitView; segmentId: string; corrects: Reading | null; onClose: () => void };

const MEASURED = { red_point: "measurement.red_point", black_point: "measurement.black_point" };
const FIELDS = [...Object.values(MEASURED), "measurement.value", "current_a", "lead_offset", "meter", "note"];
const METER = "percorso.instrument";

export function ReadingForm({ view, segmentId, corrects, onClose }: Props) {
  const words = useWords();
  const leg = view.profile.legs.find((each) => each.segment_id === segmentId);
  const form = useForm<Record<string, string>>({
    red_point: corrects?.measurement.red_point ?? leg?.start_point ?? "",
    black_point: corrects?.measurement.black_point ?? leg?.end_point ?? "",
    value: "",
    current_a: "",
    lead_offset: "",
    meter: corrects?.meter ?? localStorage.getItem(METER) ?? "",
    note: "",
  });
  const { values } = form;
  const id = crypto.randomUUID();
  const viewing = useViewing(view.job_id);
  const changed = useBoard(view.job_id).data?.moment.changed ?? false;
  const stage = useStage(view.job_id);
  const names = new Map(view.points.map((point) => [point.id, point.name]));
  const stations = [...view.supply_stations, ...view.return_stations];
  const points = stations.map((point) => ({ value: point, label: names.get(point) ?? "" }));

  async function send() {
    localStorage.setItem(METER, values.meter ?? "");
    const { red_point, black_point, value, current_a, lead_offset, ...told } = values;
    const situation = corrects?.measurement.situation ?? { stage, state: looked, inputs: viewing.inputs };
    const body = {
      ...told,
      id,
      measurement: { quantity: "voltage", red_point, black_point, value, situation },
      circuit_id: view.circuit.id,
      current_a: current_a?.trim() || null,
      lead_offset: lead_offset?.trim() || 0,
      supersedes: corrects?.id ?? null,
      must_prove: true,
    } as Schemas["ReadingValues"];
    await save("log a reading", "post", "/api/jobs/{job_id}/readings", { job_id: view.job_id }, body);
  }

  const probe = (name: "red_point" | "black_point") => ({
    data: points,
    allowDeselect: false,
    value: values[name] ?? null,
    error: form.field(name, MEASURED[name]).error,
    onChange: (value: string | null) => form.set({ [name]: value ?? "" }),
  });
  const red = view.profile.legs.find((each) => each.start_point === values.red_point);
  const black = view.profile.legs.find((each) => each.end_point === values.black_point);
  const { design_current_a, state } = view.circuit;
  const looked = view.basis === "state" ? viewing.state : state;
  const drop_v = red && black ? black.lost_after_v - red.lost_before_v : 0;
  const computed = red && drop_v > 0 ? { drop_v, current_a: red.current_a } : null;
  return (
    <FormModal
      title={corrects ? "Correct a reading" : "Log a reading"}
      action="Log it"
      busy={form.busy}
      remark={form.remark(FIELDS)}
      onSubmit={() => void form.submit(send, onClose)}
      onClose={onClose}
    >
      {corrects && (
        <Text className="quiet">
          The earlier reading of {voltage(corrects.net ?? 0)} stays in the log, marked superseded.
        </Text>
      )}
      <SimpleGrid cols={2} verticalSpacing="xs">
        <Select label="Red probe, source side" {...probe("red_point")} />
        <Select label="Black probe" {...probe("black_point")} />
        <QuantityInput
          kind="voltage"
          label="The meter says"
          placeholder={computed ? voltage(computed.drop_v).replace("−", "-") : "0.2 V"}
          data-autofocus
          {...form.field("value", "measurement.value")}
        />
        <QuantityInput
          kind="current"
          label="Current at the time"
          placeholder={`not measured; about ${amps(computed?.current_a ?? design_current_a).replace("−", "-")}`}
          {...form.field("current_a")}
        />
        <QuantityInput
          kind="voltage"
          label="Probes together read"
          placeholder="0 mV"
          {...form.field("lead_offset")}
        />
        <TextInput label="Instrument" {...form.text("meter")} />
      </SimpleGrid>
      <TextInput label="Note" {...form.text("note")} />
      {computed && (
        <Text className="quiet">
          Computed here: {voltage(computed.drop_v)} at {amps(computed.current_a)}, {words.state(looked)}.
          {changed && ` Logged of the vehicle as ${stage}.`}
        </Text>
      )}
      <Text className="caution-line">{caution(state)}</Text>
    </FormModal>
  );
}

function caution(state: CircuitView["circuit"]["state"]): string {
  if (state === "cranking") {
    return "Before cranking: gearbox in neutral, parking brake on, ignition or fuel disabled as the maker says, hands and leads clear of belts and fans. Five seconds at most.";
  }
  return "Hands and leads clear of belts, fans and hot parts; no sparks near the battery; never take the battery off with the engine running.";
}

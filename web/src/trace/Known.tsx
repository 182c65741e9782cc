/** What is known: what was read, seen and said, each with what it speaks for, to be taken back. */
import { NativeSelect } from "@mantine/core";
import type { Traced } from "../api/queries";
import type { Case, useCase } from "./useCase";

type KnownProps = {
  traced: Traced | undefined;
  known: Case;
  change: Omit<ReturnType<typeof useCase>, "known" | "isThere" | "begin">;
};

/** What is known, each of which can be taken back or doubted. */
export function Known(props: KnownProps) {
  const { traced, change } = props;
  const { doubted, suspected, left_out } = props.known;
  const beside = traced?.beside.filter(({ reading_id }) => !doubted.includes(reading_id ?? "")) ?? [];
  return (
    <>
      {!traced ? (
        <p className="quiet">Looking what is known …</p>
      ) : traced.known.length + doubted.length + suspected.length + left_out.length === 0 ? (
        <p className="quiet">Nothing is known yet. Begin with what the customer says, or measure.</p>
      ) : (
        <KnownList {...props} traced={traced} />
      )}
      {beside.length > 0 && (
        <NativeSelect
          aria-label="Count a reading of the log"
          size="xs"
          className="count"
          value=""
          data={[
            { value: "", label: "use a logged reading …" },
            ...beside.map(({ says, reading_id }) => ({ value: reading_id ?? "", label: says })),
          ]}
          onChange={(event) => change.count(event.currentTarget.value)}
        />
      )}
    </>
  );
}

function KnownList(props: KnownProps & { traced: Traced }) {
  const { traced, known, change } = props;
  function takeBack({ reading_id, mended, said }: Traced["known"][number]) {
    if (reading_id) change.doubt(reading_id);
    else if (mended) change.unmend(mended);
    else if (said) change.unsay(said);
  }
  return (
    <ul className="known" aria-label="What is known">
      {traced.known.map((each) => (
        <li key={each.reading_id ?? `said ${each.says}`}>
          <span>
            {each.says}
            {each.weighs && <span className={`weighs ${each.side}`}>{each.weighs}</span>}
            {each.doubt && (
              <span className="weighs doubt">
                <span aria-hidden="true">▲</span> {each.doubt}
              </span>
            )}
          </span>
          <button type="button" className="link" onClick={() => takeBack(each)}>
            {each.reading_id ? "doubt it" : "take it back"}
          </button>
        </li>
      ))}
      {traced.left_out.map(({ says, left_out }) => (
        <li key={`left out ${says}`}>
          <span className="quiet">{says}</span>
          <button type="button" className="link" onClick={() => change.takeUp(left_out)}>
            offer it again
          </button>
        </li>
      ))}
      {known.suspected.map((each) => (
        <li key={`suspected ${each}`}>
          <span>{each} is suspected</span>
          <button type="button" className="link" onClick={() => change.unsuspect(each)}>
            take it back
          </button>
        </li>
      ))}
      {known.doubted.map((each) => (
        <li key={each} className="doubted">
          <span>a reading is doubted</span>
          <button type="button" className="link" onClick={() => change.trust(each)}>
            trust it
          </button>
        </li>
      ))}
    </ul>
  );
}

/** Whether what the meter says is what one should read. */
export function Compared({ word }: { word: "as expected" | "higher" | "lower" }) {
  const fits = word === "as expected";
  return (
    <p className={`verdict ${fits ? "pass" : "marginal"} compared`}>
      <span aria-hidden="true">{fits ? "●" : "▲"}</span> {fits ? word : `${word} than on a good circuit`}
    </p>
  );
}

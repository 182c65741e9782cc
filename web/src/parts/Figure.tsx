/** A figure with its unit small beside it and what it is above it. */
export function Figure({ what, text, big }: { what: string; text: string; big?: boolean }) {
  const [value, unit] = text.split(" ");
  return (
    <div className={big ? "figure big" : "figure"}>
      <span className="what">{what}</span>
      <span className="value">
        {value}
        <small>{unit}</small>
      </span>
    </div>
  );
}

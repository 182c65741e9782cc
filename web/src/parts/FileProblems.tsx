/** All that is wrong with a file somebody chose, each with its place in it. */
import { Text } from "@mantine/core";
import type { ApiError } from "../api/client";

export function FileProblems({ error }: { error: ApiError }) {
  const listed = error.problems.slice(0, 30);
  return (
    <div role="alert">
      <Text className="problem">
        {error.problems.length > 1
          ? `${error.problems.length} things are wrong with it.`
          : "This file cannot be read."}{" "}
        Nothing was written.
      </Text>
      <ul className="file-problems">
        {listed.length === 0 && <li>{error.message}</li>}
        {listed.map((problem) => (
          <li key={`${problem.field.join(".")} ${problem.message}`}>
            <code>{problem.field.join(".")}</code> {problem.message}
          </li>
        ))}
        {error.problems.length > listed.length && <li>and {error.problems.length - listed.length} more</li>}
      </ul>
    </div>
  );
}

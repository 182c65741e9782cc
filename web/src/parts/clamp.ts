/** The place nearest to an index in a list of so many. */
export const clamp = (index: number, count: number) => Math.min(Math.max(index, 0), count - 1);

/** The zones a wire runs through, as the core names them. */
export const ZONES = ["cabin", "engine bay", "near exhaust", "outside"];

/** What is brought in on each kind of sheet. */
export const WORDS: Record<string, string> = {
  cranking_balance: "Bring in a trace of the starter current",
  rail_pressure: "Bring in a trace of the rail",
  pressure_drop: "Bring in a pressure log",
};

/** The figures that prices are made of, and what those of every vehicle are called on the shelf. */
export const EVERY_VEHICLE = "every vehicle";
export const PRICES: [key: string, label: string][] = [
  ["currency", "Currency, three letters"],
  ["labour_per_hour", "An hour of work"],
  ["reach_minutes", "Minutes to reach the injectors, once"],
  ["each_minutes", "Minutes for each injector"],
  ["part", "An injector"],
  ["cleaning", "Cleaning one"],
  ["rebuild", "Bench test and rebuild of one"],
];

import type { Stack } from "../store/records";

/** A rating in stars. */
export const stars = (rating: number): string => (rating ? "★".repeat(rating) : "Not rated");

/** A label in words. */
export const labelText = (label: Stack["label"]): string =>
  label === "none" ? "No label" : label[0]!.toUpperCase() + label.slice(1);

import { RhizomeError } from "../../core/error";

export function clientLoader(): never {
  throw new RhizomeError("not-found", "There is nothing at this address.", "go back to the shelf");
}
export default function Missing() {
  return null;
}

import { RhizomeError } from "../core/error";

/** The error of work that was stopped by whoever asked for it. */
export const stopped = (): RhizomeError => new RhizomeError("stopped", "The work was stopped.", "");

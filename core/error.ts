/**
 * The one error class: a code that programs read, a sentence for the user, and what to do about it.
 */
export class RhizomeError extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly remedy: string = "",
  ) {
    super(message);
    this.name = "RhizomeError";
  }

  /** What happened, and what to do about it. */
  get sentence(): string {
    return this.remedy ? `${this.message} What to do: ${this.remedy}.` : this.message;
  }

  static from(error: unknown): RhizomeError {
    if (error instanceof RhizomeError) return error;
    const e = error as { code?: unknown; message?: unknown; remedy?: unknown };
    if (e && typeof e.message === "string" && typeof e.remedy === "string")
      return new RhizomeError(String(e.code), e.message, e.remedy);
    if (e && e instanceof DOMException && e.name === "AbortError")
      return new RhizomeError("stopped", "The work was stopped.", "");
    return new RhizomeError(
      "internal",
      e && typeof e.message === "string" ? e.message : String(error),
      "try again; if it happens again, leave the frame out",
    );
  }
}

import type { Workspace } from "../state/workspace";

/** Sessions that are asked for a place at the moment: the next one waits for the next move. */
const asked = new WeakSet<object>();

/** Reads what lies under the pointer. @param at  px of the full-size picture; none outside of it */
export function readPointer(
  { session, reading, recipe }: Workspace,
  at: { x: number; y: number } | undefined,
): void {
  if (!at) {
    reading.setState({ at, rgb: undefined });
    return;
  }
  reading.setState({ at });
  if (asked.has(session) || session.state.phase !== "ready") return;
  asked.add(session);
  void Promise.all([
    session.sample(at.x, at.y, 1),
    recipe().kind === "focus" ? session.sourceAt(at.x, at.y) : undefined,
  ])
    .then(
      ([rgb, frame]) => {
        if (reading.getState().at) reading.setState({ rgb, frame });
      },
      () => undefined,
    )
    .finally(() => asked.delete(session));
}

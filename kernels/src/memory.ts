/**
 * Makes bytes zero. Typed arrays over shared memory do so one by one, as another thread might look
 * on.
 */
export function zero(at: usize, bytes: usize): void {
  memory.fill(at, 0, bytes);
}

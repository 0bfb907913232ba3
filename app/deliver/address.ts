/** The address of the screen on which stacks of a shoot are delivered; all of them if none are given. */
export function deliverAddress(shoot: string, stacks?: readonly string[]): string {
  const search = new URLSearchParams({ shoot });
  if (stacks?.length) search.set("stacks", stacks.join(","));
  return `/deliver?${search.toString()}`;
}

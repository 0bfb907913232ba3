/** A name that none of those that are taken is: the wanted one, or with a number behind it. */
export function freeName(taken: readonly string[], wanted: string): string {
  if (!taken.includes(wanted)) return wanted;
  let n = 2;
  while (taken.includes(`${wanted} ${n}`)) n++;
  return `${wanted} ${n}`;
}

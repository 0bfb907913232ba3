import { db } from "./db";

/** Every stack that was merged, over all shoots, the last one last. */
export async function mergedStacks(): Promise<
  { id: string; shoot: string; stack: string; name: string }[]
> {
  const d = await db();
  const [results, stacks, shoots] = await Promise.all([
    d.getAll("results"),
    d.getAll("stacks"),
    d.getAll("shoots"),
  ]);
  const merged = new Set(results.map(({ id }) => id));
  return stacks
    .filter(({ id }) => merged.has(id))
    .sort((a, b) => a.order - b.order)
    .flatMap((stack) => {
      const shoot = shoots.find(({ id }) => id === stack.shootId);
      const id = `${stack.shootId}/${stack.id}`;
      return shoot
        ? [{ id, shoot: shoot.id, stack: stack.id, name: `${stack.name}, ${shoot.name}` }]
        : [];
    });
}

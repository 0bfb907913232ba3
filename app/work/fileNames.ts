import type { FrameInfo } from "../../core/frame/frame";
import { filesOfStack, withoutClashes } from "../../pipeline/deliver/fileName";
import { filesOf } from "../../pipeline/deliver/settings";
import type { Recipe } from "../../pipeline/recipe/recipe";
import type { Shoot, Stack } from "../store/records";

/** What is delivered of a stack. */
export interface Asked {
  stack: Pick<Stack, "id" | "name">;
  /** the name of the take */
  take: string;
  recipe: Recipe;
  /** of its frames, as their files say */
  infos: readonly FrameInfo[];
  /** how long it will take, ms */
  expectedMs?: number;
}

/** The names that the files of stacks ask for, by stack; some may be asked for twice. */
const wantedNames = (shoot: Pick<Shoot, "name">, asked: readonly Asked[]): string[][] =>
  asked.map(({ stack: { name }, take, recipe, infos }, i) => {
    const named = { name, kind: recipe.kind, infos, take, shoot: shoot.name, number: i + 1 };
    return filesOfStack(named, filesOf(recipe.deliver));
  });

/** The names of all files of stacks that are delivered together, by stack; none twice. */
export function namesOfFiles(shoot: Pick<Shoot, "name">, asked: readonly Asked[]): string[][] {
  const wanted = wantedNames(shoot, asked);
  const all = withoutClashes(wanted.flat());
  return wanted.map((names) => all.splice(0, names.length));
}

/** Names that several files ask for: all but the first get numbers. */
export function clashingNames(shoot: Pick<Shoot, "name">, asked: readonly Asked[]): string[] {
  const names = wantedNames(shoot, asked).flat();
  const folded = names.map((name) => name.toLowerCase());
  return names.filter((_, i) => {
    const first = folded.indexOf(folded[i]!);
    return first === i && folded.lastIndexOf(folded[i]!) > i;
  });
}

import type { Work, StackFrame } from "../work";
import type { Matrix3 } from "../../core/math/matrix3";
import { addressesOf, type Scene } from "./scene";
import { begin, fold } from "./fold";
import { sizeAt } from "../step";
import { cleared } from "../../runtime/work";
import { decodeInto } from "../readFrames";
import { finish, toScene } from "./finish";
import { TaskScope } from "../../runtime/taskScope";
import { darkNoise } from "../../core/tone/darkNoise";

/** One frame by itself, warped to where the reference frame lies, at its own exposure. */
export async function frameAlone(
  work: Work,
  frame: StackFrame,
  fromReference: Matrix3,
  downscale: number,
): Promise<Scene> {
  await using scope = new TaskScope(work);
  const acc = begin(scope, sizeAt(frame.info, downscale));
  await cleared(scope, acc.ptr, acc.planeBytes * 4, {});
  const loaded = await decodeInto(scope, frame, downscale);
  const place = { fromReference: [...fromReference], ev: 0, darkest: true };
  await fold(scope, acc, loaded, place, downscale, false, {});
  await finish(scope, acc, loaded.matrix, undefined, {});
  const analysis = { basisParts: 0, noise: darkNoise(frame.info) };
  const scene = await toScene(scope, acc, analysis, {});
  scope.keep(...addressesOf(scene));
  return scene;
}

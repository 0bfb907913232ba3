import * as v from "valibot";
import type { FrameInfo } from "../../core/frame/frame";
import { clamp } from "../../core/math/clamp";
import { isIdentity, IDENTITY, multiply } from "../../core/math/matrix3";
import { turnByHand } from "../../core/math/viewTurn";
import { uprightTurn, type Upright } from "../../core/straighten/findUpright";
import { guidedTurn } from "../../core/straighten/guidedTurn";
import { pictureMapping } from "../../core/straighten/pictureMapping";
import { focalPxOf, pxOfFocal } from "../focalLength";
import { asksForUpright, isStraightened, type StraightenSettings } from "./settings";

const UprightSchema = v.object({
  pitch: v.number(),
  roll: v.number(),
  pitchSigma: v.number(),
  rollSigma: v.number(),
  edges: v.number(),
}) satisfies v.GenericSchema<unknown, Upright>;
/** How a picture lies on its reference frame once it is set upright. */
export const StraighteningSchema = v.object({
  /** the picture's px to the reference frame's, full size, row-major */
  fromPicture: v.array(v.number()),
  /** what said so first */
  by: v.picklist(["guides", "edges", "hand"]),
  /** what the edges say, where they were asked and say it clearly */
  upright: v.optional(UprightSchema),
  /** of the pitch and roll that the edges say, how much is corrected, degrees */
  corrected: v.optional(v.object({ pitch: v.number(), roll: v.number() })),
  focalPx: v.number(),
  /** whether the file or the user tells the focal length */
  isFocalKnown: v.boolean(),
});
export type Straightening = v.InferOutput<typeof StraighteningSchema>;

/** The focal length that is taken where nothing tells it, mm on 35 mm film: a lens for rooms. */
const USUAL_FOCAL = 24;
/** The most by which automatic correction turns a picture, degrees: more would distort wildly. */
const AUTO_MOST = { pitch: 16, roll: 10 };

/** A frame's focal length in px, as it is set, told by the file, or usual. */
export function focalOf(
  { focal }: Pick<StraightenSettings, "focal">,
  info: FrameInfo,
): Pick<Straightening, "focalPx" | "isFocalKnown"> {
  if (focal !== "auto") return { focalPx: pxOfFocal(focal, info), isFocalKnown: true };
  const told = focalPxOf(info);
  return { focalPx: told ?? pxOfFocal(USUAL_FOCAL, info), isFocalKnown: told !== undefined };
}

/** How much of what the edges say is corrected, degrees. */
function correctedOf(
  amount: StraightenSettings["upright"],
  { pitch, roll }: Upright,
): NonNullable<Straightening["corrected"]> {
  if (amount === "auto")
    return {
      pitch: clamp(pitch, -AUTO_MOST.pitch, AUTO_MOST.pitch),
      roll: clamp(roll, -AUTO_MOST.roll, AUTO_MOST.roll),
    };
  const share = typeof amount === "number" ? amount : 1;
  return { pitch: pitch * share, roll: roll * share };
}

/**
 * How a picture lies on its reference frame; undefined where it is not turned.
 *
 * @param info   of the reference frame
 * @param found  what its edges say, if they were asked
 */
export function straighteningOf(
  settings: StraightenSettings,
  info: FrameInfo,
  found: Upright | undefined,
): Straightening | undefined {
  if (!isStraightened(settings)) return undefined;
  const { guides, upright, extent } = settings;
  const lens = focalOf(settings, info);
  const { width, height } = info;
  let { focalPx } = lens;
  let turn = [...IDENTITY];
  let by: Straightening["by"] = "hand";
  let corrected: Straightening["corrected"];
  if (guides.length) {
    by = "guides";
    const guided = guidedTurn(guides, { width, height, focalPx, isKnown: lens.isFocalKnown });
    turn = guided.turn;
    focalPx = guided.focalPx;
  } else if (asksForUpright(settings) && found) {
    by = "edges";
    corrected = correctedOf(upright, found);
    turn = uprightTurn(corrected);
  }
  const whole = multiply(turnByHand(settings), turn);
  return {
    fromPicture: pictureMapping(isIdentity(whole) ? IDENTITY : whole, focalPx, info, extent),
    by,
    ...(found ? { upright: found } : {}),
    ...(corrected ? { corrected } : {}),
    focalPx,
    isFocalKnown: lens.isFocalKnown,
  };
}

export const UPRIGHT_UNKNOWN = "upright-unknown";
/** What is to be said of it beside the picture. */
export const straightenWarnings = (
  settings: StraightenSettings,
  found: Straightening | undefined,
): { code: string; message: string }[] =>
  asksForUpright(settings) && found && !found.upright
    ? [
        {
          code: UPRIGHT_UNKNOWN,
          message:
            "The picture was not set upright: too few of its edges say what is vertical. Draw a line along something vertical or level.",
        },
      ]
    : [];

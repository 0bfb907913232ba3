import { exposureEv, type FrameInfo } from "../frame/frame";
import { alikeAsTheyLie, compareAt, comparePair } from "./comparePair";
import { shiftOf, type PairView } from "./pairView";
import { HIGHEST, LOWEST, SHARP_X, SHARP_Y, type FrameSignature } from "./signature";
import { clamp } from "../math/clamp";

export interface Member {
  /** what tells this frame from every other */
  key: string;
  info: FrameInfo;
  signature?: FrameSignature;
}

/** Spread of a frame's log luminance, codes, below which it is a wall or a sky. */
const FLAT_SPREAD_CODES = 5;

/** Shares of the frame by which a hand shakes at most between frames of one view. */
const MAX_SHAKE_SHARE = 0.15;
/**
 * Shares of the textured parts that fit: from which on two frames show one view, and below which
 * they do not.
 */
const SAME_VIEW_PARTS = 0.5;
const OTHER_VIEW_PARTS = 0.25;
/** Correlation of one view, and certainty that chance does not reach. */
const SAME_VIEW_CORRELATION = 0.8;
const BEYOND_CHANCE = 6;

/** Seconds that a clock set back counts for. */
const CLOCK_SET = 60;

/**
 * Pairs that were compared before, by their frames' keys and where the second was expected, if it
 * was; null where they share nothing.
 */
export type ComparedPairs = Map<string, PairView | null>;

/**
 * What two frames tell about each other, found once and kept. All weights are natural logs of odds.
 */
export class PairStatistics {
  readonly ev: (number | undefined)[];

  constructor(
    readonly frames: readonly Member[],
    /** s; a longer pause ends every set, if given */
    private readonly gap?: number,
    /** what is found is added to it */
    private readonly pairs: ComparedPairs = new Map(),
  ) {
    this.ev = frames.map((f) => exposureEv(f.info.exif));
  }

  /** How frame j lies against frame i < j; undefined where signatures are missing or share nothing. */
  pair(i: number, j: number): PairView | undefined {
    return this.compared(i, j, "", comparePair);
  }

  /**
   * What frames i and j tell of a place where j is expected against i; undefined where they tell
   * nothing of it.
   */
  pairAt(i: number, j: number, guess: { dx: number; dy: number }): PairView | undefined {
    return this.compared(i, j, ` ${guess.dx} ${guess.dy}`, (a, b, focal, step) =>
      compareAt(a, b, focal, guess, step),
    );
  }

  private compared(
    i: number,
    j: number,
    of: string,
    compare: (
      a: FrameSignature,
      b: FrameSignature,
      focal: number | undefined,
      step: number | undefined,
    ) => PairView | undefined,
  ): PairView | undefined {
    const a = this.frames[i]!;
    const b = this.frames[j]!;
    const key = `${a.key} ${b.key}${of}`;
    let p = this.pairs.get(key);
    if (p === undefined) {
      p =
        (a.signature &&
          b.signature &&
          compare(a.signature, b.signature, focalOf(a.info), this.stepBySettings(i, j))) ??
        null;
      this.pairs.set(key, p);
    }
    return p ?? undefined;
  }

  /**
   * Whether frames i and j show one view or two, the camera at most shaken in between: by the parts
   * of the frame that have texture in both. undefined where they share too little that is well
   * exposed to tell.
   */
  viewsOf(i: number, j: number): "one" | "two" | undefined {
    const key = i < j ? `${i} ${j}` : `${j} ${i}`;
    if (!this.views.has(key))
      this.views.set(key, i < j ? this.compareViews(i, j) : this.compareViews(j, i));
    return this.views.get(key);
  }
  private readonly views = new Map<string, "one" | "two" | undefined>();

  private compareViews(i: number, j: number): "one" | "two" | undefined {
    const here = this.pairAt(i, j, { dx: 0, dy: 0 });
    const found = this.pair(i, j);
    const near = [here, found].flatMap((p) => (p && shiftOf(p) < MAX_SHAKE_SHARE ? [p] : []));
    if (
      near.some(
        (p) =>
          (p.alike ?? 0) >= SAME_VIEW_PARTS ||
          (p.alike === undefined &&
            p.correlation > SAME_VIEW_CORRELATION &&
            p.certainty > BEYOND_CHANCE),
      )
    )
      return "one";
    if (near.some((p) => p.alike !== undefined && p.alike < OTHER_VIEW_PARTS)) return "two";
    if (found && shiftOf(found) > MAX_SHAKE_SHARE && found.certainty > BEYOND_CHANCE) return "two";
    const a = this.frames[i]!.signature;
    const b = this.frames[j]!.signature;
    const alike = near.length === 0 && a && b ? alikeAsTheyLie(a, b) : undefined;
    return alike !== undefined && alike < OTHER_VIEW_PARTS ? "two" : undefined;
  }

  /** EV of frame j against frame i: from the settings, else from the pixels. */
  step(i: number, j: number): number | undefined {
    const known = this.stepBySettings(i, j);
    if (known !== undefined) return known;
    const p = this.pair(i, j);
    return p && p.certainty > 5 ? p.gainEv : undefined;
  }

  private stepBySettings(i: number, j: number): number | undefined {
    const a = this.ev[i];
    const b = this.ev[j];
    return a === undefined || b === undefined ? undefined : b - a;
  }

  /** Seconds between the end of frame i and the start of frame j. */
  pause(i: number, j: number): number | undefined {
    const a = this.frames[i]!.info.exif;
    const b = this.frames[j]!.info.exif;
    if (a.takenAt === undefined || b.takenAt === undefined) return undefined;
    // time that runs backwards is a clock that was set, which is not done within a set
    if (b.takenAt < a.takenAt - 1) return CLOCK_SET;
    // a long exposure is followed by the camera's own dark frame at times
    return Math.max(
      0,
      b.takenAt - a.takenAt - 2 * Math.max(a.exposureTime ?? 0, b.exposureTime ?? 0),
    );
  }

  /** Whether most of a frame is neither lost nor flat, so that it can be known from others. */
  showsMuch(i: number): boolean {
    return (this.much[i] ??= this.lookedAt(i));
  }
  private readonly much: boolean[] = [];
  private lookedAt(i: number): boolean {
    const log = this.frames[i]!.signature?.log;
    if (!log) return false;
    const lit = log.filter((v) => v >= LOWEST && v <= HIGHEST);
    const mean = lit.reduce((s, v) => s + v, 0) / lit.length;
    return (
      lit.length > 0.7 * log.length &&
      Math.sqrt(lit.reduce((s, v) => s + (v - mean) ** 2, 0) / lit.length) > FLAT_SPREAD_CODES
    );
  }

  /** How differently two frames are sharp over the picture, in stops of fine contrast. */
  sharpnessChange(i: number, j: number): number | undefined {
    const a = this.frames[i]!.signature?.sharp;
    const b = this.frames[j]!.signature?.sharp;
    if (!a || !b) return undefined;
    let s = 0;
    for (let k = 0; k < SHARP_X * SHARP_Y; k++) s += Math.abs(a[k]! - b[k]!);
    return s / (16 * SHARP_X * SHARP_Y);
  }

  /** Against a stack whose frames were taken with other settings than these, or too long ago. */
  settings(i: number, j: number): number {
    const a = this.frames[i]!.info;
    const b = this.frames[j]!.info;
    const pause = this.pause(i, j) ?? 0;
    if (this.gap !== undefined && pause > this.gap) return -20;
    if (a.width !== b.width || a.height !== b.height) return -9;
    if (
      a.exif.focalLength !== undefined &&
      b.exif.focalLength !== undefined &&
      Math.abs(a.exif.focalLength / b.exif.focalLength - 1) > 0.02
    )
      return -6;
    if (
      a.exif.aperture !== undefined &&
      b.exif.aperture !== undefined &&
      a.exif.aperture !== b.exif.aperture
    )
      return -1.5;
    if (a.exif.takenAt !== undefined && !this.frames[j]!.signature && pause > 4) return -1.2;
    return 0;
  }
}

/** Focal length in long edges of the frame, from its equivalent on a 36 mm wide frame. */
function focalOf(info: FrameInfo): number | undefined {
  const mm = info.exif.focalLength35 ?? info.exif.focalLength;
  return mm ? clamp(mm / 36, 0.3, 4) : undefined;
}

/**
 * Log odds that both show the same place, from how certainly they correlate: chance alone reaches
 * about 5.
 */
export const oddsOf = (certainty: number): number => clamp((certainty - 5) * 1.1, -2.5, 7);

/** The same where it was not looked for but expected: chance alone reaches about 2.5. */
export const oddsExpected = (certainty: number): number => clamp((certainty - 3) * 1.1, -2.5, 7);

/**
 * A frame taken with the lens covered: far darker than its own settings let expect, and without
 * anything in it.
 */
export function isCovered({ signature }: Member): boolean {
  if (!signature) return false;
  const lit = signature.log.filter((v) => v > 60).length / signature.log.length;
  return lit < 0.002 && signature.bright < 1e-4 && signature.dark > 0.5;
}

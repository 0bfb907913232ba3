import { lookScratch } from "../../core/focus/frameSignature";
import { inReference, type DisplacedEdges } from "../../core/focus/displacedEdges";
import type { FocusOrder } from "../../core/focus/focusOrder";
import { joinErrors } from "../../core/focus/joinErrors";
import { joinLinks, type RunLink } from "../../core/focus/joinLinks";
import type { AlignedRun } from "../../core/focus/readRun";
import {
  pairScratch,
  type Neighbours,
  type RunPair,
  type ThereAndBack,
} from "../../core/focus/runLinks";
import { IDENTITY, invert, multiply } from "../../core/math/matrix3";
import { checkSizes, type Work } from "../work";
import { type Watch } from "../../runtime/work";
import { forcedPlaces, type Aligned, type AlignInput, type AlignSettings } from "./step";

/**
 * A run as its neighbours tell it: the place on which all lie; of each place along the travel its
 * way from the reference; the links that fit, and places that fit nothing.
 */
interface Chain {
  middle: number;
  ways: number[][];
  links: { from: number; to: number; link: Neighbours }[];
  misfits: Set<number>;
}

/**
 * Finds how the frames of a focus run lie against its middle one, and in which order they travel.
 * Neighbours along the travel are sharp at nearly the same places and differ least in size, so each
 * is registered to the next; then all are joined with links there and back and to the next but one.
 * Breathing is the growth in them. The travel's order is taken from the files or the pixels where
 * the given one does not follow it.
 *
 * @throws RhizomeError `size-mismatch`
 */
export async function alignFocus(
  work: Work,
  { frames, loaded, downscale: scale }: Pick<AlignInput, "frames" | "loaded" | "downscale">,
  { motion, forced }: AlignSettings,
  { progress, signal }: Partial<Watch> = {},
): Promise<Aligned> {
  checkSizes(frames, 0);
  const { width, height } = loaded[0]!;
  const on = signal ? { signal } : {};
  const looking = { scratch: lookScratch(width * height), ...on };
  const pairing = { scratch: pairScratch(width * height), ...on };
  const model = motion === "auto" ? "similarity" : motion;
  const n = frames.length;
  const jobs = 2 * n + Math.max(0, n - 1) + Math.max(0, n - 2);
  let done = 0;
  const counted = async <T>(job: Promise<T>): Promise<T> => {
    const result = await job;
    done++;
    progress?.(
      Math.min(1, done / jobs),
      `Aligning frames, ${Math.min(n, Math.ceil((done * n) / jobs))} of ${n}`,
    );
    return result;
  };
  const signatures = await Promise.all(
    loaded.map((frame) => counted(work.run("lookAt", { frame }, looking))),
  );
  const travel: FocusOrder = await work.run(
    "focusOrder",
    { maps: signatures.map((l) => l.map), distances: frames.map((f) => f.info.exif.focusDistance) },
    on,
  );
  const { order } = travel;
  const pair = (from: number, to: number): RunPair => {
    const [a, b] = [order[from]!, order[to]!];
    return {
      frames: [loaded[a]!, loaded[b]!],
      signatures: [signatures[a]!, signatures[b]!],
      model,
    };
  };
  const chain = await chainOutward(order.length, middleOf(order), (from, to) =>
    counted(work.run("registerNeighbours", { pair: pair(from, to), scale }, pairing)),
  );
  const { middle } = chain;
  const reference = order[middle]!;
  const between = (from: number, to: number): number[] =>
    multiply(chain.ways[to]!, invert(chain.ways[from]!));
  const further =
    model === "none"
      ? []
      : await Promise.all(
          overOne(chain.links).map(async ([from, to]) =>
            bothWays(
              from,
              to,
              await counted(
                work.run(
                  "linkInLight",
                  { pair: pair(from, to), start: between(from, to) },
                  pairing,
                ),
              ),
            ),
          ),
        );
  const links = [
    ...chain.links.flatMap(({ from, to, link }) => bothWays(from, to, link)),
    ...further.flat(),
  ];
  const ways = joinLinks(chain.ways, middle, links, { width, height });
  const wayOf = (i: number): number[] => ways[order.indexOf(i)]!;
  const errors =
    model === "none"
      ? ways.map(() => 0)
      : joinErrors(ways, chain.ways, middle, links, { width, height });
  const errorOf = (i: number): Pick<AlignedRun["frames"][number], "errorPx"> => {
    const errorPx = errors[order.indexOf(i)];
    return errorPx === undefined ? {} : { errorPx };
  };
  // once they lie on each other they tell more
  const warped = await Promise.all(
    loaded.map((frame, i) =>
      counted(work.run("warpedSharpness", { frame, toReference: invert(wayOf(i)) }, looking)),
    ),
  );
  const { warnings, ...run } = await work.run(
    "readRun",
    {
      ...travel,
      frames: signatures.map((signature, i) => ({
        signature,
        warped: warped[i]!,
        fromReference: wayOf(i),
        ...errorOf(i),
      })),
      reference,
      misfits: [...chain.misfits].map((k) => order[k]!),
      forced: forcedPlaces(frames, forced),
      width,
      height,
      scale,
    },
    on,
  );
  const displaced = chain.links.flatMap(({ from, to, link }): DisplacedEdges[] =>
    link.displaced.map((area) =>
      inReference(area, invert(ways[from]!), [order[from]!, order[to]!], scale),
    ),
  );
  return {
    ...run,
    reference,
    displaced: displaced.filter(({ frames: two }) => two.every((i) => run.frames[i]!.used)),
    warnings,
  };
}

/**
 * The place on which a run is to lie: of the frame that is the middle one as they were given, if
 * the travel's middle third has it; else the travel's own middle.
 */
function middleOf(order: readonly number[]): number {
  const n = order.length;
  const place = order.indexOf(n >> 1);
  return Math.abs(place - (n >> 1)) * 6 <= n ? place : n >> 1;
}

/**
 * Registers neighbours, and joins them outwards from the middle, or from the nearest frame to it
 * that fits a neighbour; one that does not fit is stepped over.
 */
async function chainOutward(
  n: number,
  wanted: number,
  register: (from: number, to: number) => Promise<Neighbours>,
): Promise<Chain> {
  const next = await Promise.all(Array.from({ length: n - 1 }, (_, k) => register(k, k + 1)));
  const loaded = [...Array(n).keys()].filter((k) => next[k]?.fit || next[k - 1]?.fit);
  const middle = loaded.length
    ? loaded.reduce((best, k) => (Math.abs(k - wanted) < Math.abs(best - wanted) ? k : best))
    : wanted;
  const chain: Chain = {
    middle,
    ways: Array.from({ length: n }, () => [...IDENTITY]),
    links: [],
    misfits: new Set(),
  };
  for (const step of [1, -1]) {
    let last = middle;
    for (let k = middle + step; k >= 0 && k < n; k += step) {
      let from = Math.min(k, k - step);
      let to = from + 1;
      let link = next[from]!;
      if (last !== k - step) {
        const over = await register(Math.min(last, k), Math.max(last, k));
        if (over.fit) [from, to, link] = [Math.min(last, k), Math.max(last, k), over];
      }
      chain.ways[k] = link.fit
        ? multiply(k === to ? link.there : link.back, chain.ways[k === to ? from : to]!)
        : [...chain.ways[last]!];
      if (!link.fit) {
        chain.misfits.add(k);
        continue;
      }
      chain.links.push({ from, to, link });
      last = k;
    }
  }
  return chain;
}

const bothWays = (from: number, to: number, { there, back }: ThereAndBack): RunLink[] => [
  { from, to, transform: there },
  { from: to, to: from, transform: back },
];

/** The pairs over one frame that is linked to both of them. */
function overOne(links: Chain["links"]): [number, number][] {
  const linked = new Set(
    links
      .filter(({ from, to }) => Math.abs(to - from) === 1)
      .map(({ from, to }) => Math.min(from, to)),
  );
  return [...linked].flatMap((k): [number, number][] => (linked.has(k + 1) ? [[k, k + 2]] : []));
}

import { OUTPUT_FORMATS } from "../../codecs/outputFormats";
import type { FrameInfo } from "../../core/frame/frame";
import type { Delivery } from "./settings";

/** What a file's name is made of. */
const FIELDS = [
  "name",
  "first",
  "last",
  "count",
  "kind",
  "take",
  "delivery",
  "date",
  "shoot",
  "number",
] as const;
export type NameFields = Record<(typeof FIELDS)[number], string>;

/** The longest name of a file, without its ending. */
const LONGEST = 120;

const withoutEnding = (file: string): string => file.replace(/\.[A-Za-z0-9]{1,5}$/, "");
/** A name without signs that paths or systems read as something else. */
export const safeName = (text: string): string =>
  text
    .replace(/[^\p{L}\p{N} ._-]+/gu, "_")
    .replace(/^[. ]+|[. ]+$/g, "")
    .slice(0, LONGEST) || "picture";

/** The day of a time in s, as it sorts; empty where it is not known. */
export const dayOf = (seconds: number | undefined): string =>
  seconds === undefined || !Number.isFinite(seconds)
    ? ""
    : new Date(seconds * 1000).toISOString().slice(0, 10);

/** Fields of a pattern that nobody knows. */
export const unknownFields = (pattern: string): string[] =>
  [...pattern.matchAll(/\{([^{}]*)\}/g)]
    .map((match) => match[1]!)
    .filter((field) => !(FIELDS as readonly string[]).includes(field));

/** A part of a pattern that leads nowhere: empty, this folder, or the one above. */
const isNowhere = (part: string): boolean => /^[. ]*$/.test(part);

/**
 * A file's name, without its ending, by a pattern such as {first}-{count}; what stands before a
 * slash is a folder: {delivery}/{name}. No pattern leads out of the results' own folder.
 */
export function fileName(pattern: string, fields: NameFields): string {
  const filled = (part: string): string =>
    part.replace(/\{([^{}]*)\}/g, (whole, field: string) =>
      field in fields ? withoutEnding(fields[field as keyof NameFields]) : whole,
    );
  const parts = pattern.split("/").map(filled);
  const folders = parts.slice(0, -1).filter((part) => !isNowhere(part));
  const last = parts.at(-1)!.trim() || fields.name;
  return [...folders, last].map(safeName).join("/");
}

/** The folders and the name of a file as it is named by a pattern. */
export function inFolders(path: string): { folders: string[]; name: string } {
  const parts = path.split("/");
  return { folders: parts.slice(0, -1), name: parts.at(-1)! };
}

/** The ending of a name; that of recipes has two parts. */
const ENDING = /(?<=.)(?:\.rhizome\.json|\.[^.]*)$/;

/** A file's name with a number before its ending. */
export function numbered(name: string, n: number): string {
  const ending = ENDING.exec(name)?.[0] ?? "";
  return `${name.slice(0, name.length - ending.length)}-${n}${ending}`;
}

/**
 * Names that do not clash: the second of a name is called after it with -2, and so on. Systems that
 * do not tell small letters from large ones see the same name in both.
 */
export function withoutClashes(names: readonly string[]): string[] {
  const taken = new Set<string>();
  return names.map((name) => {
    let own = name;
    for (let n = 2; taken.has(own.toLowerCase()); n++) own = numbered(name, n);
    taken.add(own.toLowerCase());
    return own;
  });
}

/** What the files of a stack are named after. */
export interface NamedStack {
  name: string;
  kind: string;
  /** of its frames, as their files say */
  infos: readonly FrameInfo[];
  take: string;
  shoot: string;
  /** place of the stack among those that are delivered together, from 1 */
  number: number;
}

/** The names of a stack's files, one a delivery, with their endings; they may clash. */
export function filesOfStack(
  { infos, number, ...stack }: NamedStack,
  deliveries: readonly Delivery[],
): string[] {
  const [first, last] = [infos[0]!, infos.at(-1)!];
  return deliveries.map(({ name: delivery, settings }) => {
    const named = fileName(settings.pattern, {
      ...stack,
      first: first.name,
      last: last.name,
      count: String(infos.length),
      delivery,
      date: dayOf(first.exif.takenAt),
      number: String(number).padStart(3, "0"),
    });
    return `${named}${OUTPUT_FORMATS[settings.format].endings[0]}`;
  });
}

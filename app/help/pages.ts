import backUp from "./pages/back-up.md?raw";
import bringIn from "./pages/bring-in.md?raw";
import checkStacks from "./pages/check-stacks.md?raw";
import deliver from "./pages/deliver.md?raw";
import finish from "./pages/finish.md?raw";
import focus from "./pages/focus.md?raw";
import ghosts from "./pages/ghosts.md?raw";
import merge from "./pages/merge.md?raw";
import panoramas from "./pages/panoramas.md?raw";
import photographBrackets from "./pages/photograph-brackets.md?raw";
import photographFocus from "./pages/photograph-focus.md?raw";
import photographPanoramas from "./pages/photograph-panoramas.md?raw";
import prepare from "./pages/prepare.md?raw";
import repair from "./pages/repair.md?raw";
import straighten from "./pages/straighten.md?raw";
import takesAndLooks from "./pages/takes-and-looks.md?raw";
import tone from "./pages/tone.md?raw";
import words from "./pages/words.md?raw";
import boardPicture from "./pictures/board.webp";
import comparePicture from "./pictures/compare.webp";
import deliverPicture from "./pictures/deliver.webp";
import depthPicture from "./pictures/depth.webp";
import finishPicture from "./pictures/finish.webp";
import focusPicture from "./pictures/focus.webp";
import panoramaPicture from "./pictures/panorama.webp";
import preparePicture from "./pictures/prepare.webp";
import repairPicture from "./pictures/repair.webp";
import shelfPicture from "./pictures/shelf.webp";
import sourcesPicture from "./pictures/sources.webp";
import spherePicture from "./pictures/all-round.webp";
import storagePicture from "./pictures/storage.webp";
import straightenPicture from "./pictures/straighten.webp";
import wipePicture from "./pictures/wipe.webp";
import workspacePicture from "./pictures/workspace.webp";

export const GROUPS = ["The work, in its order", "Photographing", "To look up"] as const;

/** A page of the guide: one task. */
export interface HelpPage {
  id: string;
  title: string;
  group: (typeof GROUPS)[number];
  /** Markdown; empty where the page is made of what the application knows */
  text: string;
  picture?: { url: string; says: string };
}

const WORK = GROUPS[0];
const PHOTOGRAPHING = GROUPS[1];
const LOOK_UP = GROUPS[2];

const work = (id: string, title: string, text: string, url: string, says: string): HelpPage => ({
  id,
  title,
  group: WORK,
  text,
  picture: { url, says },
});

/** All pages, in the order of the work. */
export const PAGES = [
  work("bring-in", "Bring in frames", bringIn, shelfPicture, "The shelf with a shoot"),
  work("check-stacks", "Check the stacks", checkStacks, boardPicture, "A board with its stacks"),
  work("prepare", "Prepare the frames", prepare, preparePicture, "The step Prepare, opened"),
  work("merge", "Merge a bracket", merge, workspacePicture, "A merged bracket with its proof"),
  work("ghosts", "Remove ghosts", ghosts, sourcesPicture, "Which frame gave which pixel"),
  work("panoramas", "Stitch a panorama", panoramas, panoramaPicture, "A panorama of one row"),
  work("focus", "Stack focus", focus, focusPicture, "A merged focus stack"),
  work("tone", "Set the tone", tone, wipePicture, "The merge beside its reference frame"),
  work("finish", "Finish", finish, finishPicture, "The step Finish with its parts"),
  work("repair", "Repair", repair, repairPicture, "Repairs on a merged picture"),
  work("straighten", "Straighten and crop", straighten, straightenPicture, "Lines set upright"),
  work("takes-and-looks", "Compare", takesAndLooks, comparePicture, "Two takes side by side"),
  work("deliver", "Deliver", deliver, deliverPicture, "Stacks and their deliveries"),
  work("back-up", "Back up and restore", backUp, storagePicture, "What takes room, and backups"),
  {
    id: "photograph-brackets",
    title: "Brackets that merge well",
    group: PHOTOGRAPHING,
    text: photographBrackets,
    picture: { url: workspacePicture, says: "A room with a bright window, merged" },
  },
  {
    id: "photograph-panoramas",
    title: "Panoramas that join well",
    group: PHOTOGRAPHING,
    text: photographPanoramas,
    picture: { url: spherePicture, says: "A whole sphere, looked round in" },
  },
  {
    id: "photograph-focus",
    title: "Focus stacks without gaps",
    group: PHOTOGRAPHING,
    text: photographFocus,
    picture: { url: depthPicture, says: "A focus stack over its map of depth" },
  },
  { id: "words", title: "Words", group: LOOK_UP, text: words },
  { id: "settings", title: "All settings", group: LOOK_UP, text: "" },
  { id: "keys", title: "Keys", group: LOOK_UP, text: "" },
] as const satisfies readonly HelpPage[];

export type PageId = (typeof PAGES)[number]["id"];

export const pageNamed = (id: string | undefined): HelpPage | undefined =>
  PAGES.find((page) => page.id === id);

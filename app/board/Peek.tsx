import { useEffect, useRef, useState } from "react";
import { Dialog } from "radix-ui";
import type { Frame } from "../store/records";
import { readOriginal } from "../store/originals";
import { shutter, signed } from "../ui/format";
import { pool } from "../work/pool";
import { relativeEvs } from "./exposures";
import { decodingAllowance } from "../../pipeline/allowance";

interface Props {
  frames: Frame[];
  thumbnails: Map<string, Blob>;
  at: number;
  onAt: (i: number) => void;
  onClose: () => void;
}

/**
 * One frame, large. Stepping through the stack keeps zoom and spot, like a flip-book: movement and
 * blur show at once.
 */
export function Peek({ frames, thumbnails, at, onAt, onClose }: Props) {
  const frame = frames[at]!;
  const evs = relativeEvs(frames);
  const [view, setView] = useState({ zoom: 0, cx: 0.5, cy: 0.5 });
  const [urls, setUrls] = useState<Record<string, string>>({});
  const [failed, setFailed] = useState<Record<string, string>>({});
  const drag = useRef<{ x: number; y: number; cx: number; cy: number }>(undefined);
  const made = useRef<Record<string, string>>({});
  // this frame first, then its neighbours, so that stepping does not wait
  useEffect(() => {
    let live = true;
    void (async () => {
      for (const i of [at, at + 1, at - 1]) {
        const f = frames[i];
        if (!f || made.current[f.hash] || !live) continue;
        try {
          const original = await readOriginal(f);
          const own = /^(jpeg|png|webp)$/.test(f.info.format)
            ? original
            : ((await pool().run(
                "picture",
                {
                  source: { name: f.info.name, blob: original },
                  longEdge: Math.max(f.info.width, f.info.height),
                },
                {
                  priority: "screen",
                  subject: f.info.name,
                  allowanceMs: decodingAllowance(f.info),
                },
              )) as Blob);
          made.current[f.hash] = URL.createObjectURL(own);
          if (live) setUrls({ ...made.current });
        } catch (e) {
          if (live) setFailed((was) => ({ ...was, [f.hash]: (e as Error).message }));
        }
      }
    })();
    return () => {
      live = false;
    };
  }, [at, frames]);
  useEffect(
    () => () => {
      for (const u of Object.values(made.current)) URL.revokeObjectURL(u);
    },
    [],
  );
  const [small, setSmall] = useState<string>();
  useEffect(() => {
    const blob = thumbnails.get(frame.hash);
    const u = blob && URL.createObjectURL(blob);
    setSmall(u);
    return () => {
      if (u) URL.revokeObjectURL(u);
    };
  }, [frame.hash, thumbnails]);
  const size = { width: window.innerWidth, height: window.innerHeight - 40 };
  const { width: w, height: h } = frame.info;
  const fit = Math.min(size.width / w, size.height / h);
  const z = view.zoom || fit;
  const hold = (c: number, p: number, b: number): number => {
    const half = b / 2 / (p * z);
    return half >= 0.5 ? 0.5 : Math.min(1 - half, Math.max(half, c));
  };
  const cx = hold(view.cx, w, size.width);
  const cy = hold(view.cy, h, size.height);
  const zoomTo = (zoom: number, x = size.width / 2, y = size.height / 2): void => {
    const next = zoom <= fit * 1.01 ? 0 : Math.min(8, zoom);
    const n = next || fit;
    const px = cx + (x - size.width / 2) / (w * z);
    const py = cy + (y - size.height / 2) / (h * z);
    setView({
      zoom: next,
      cx: px - (x - size.width / 2) / (w * n),
      cy: py - (y - size.height / 2) / (h * n),
    });
  };
  const step = (by: number): void => onAt((at + by + frames.length) % frames.length);
  return (
    <Dialog.Root open onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed inset-0 z-50 flex flex-col bg-well outline-none"
          onKeyDown={(e) => {
            const keys: Record<string, () => void> = {
              ArrowRight: () => step(1),
              ArrowLeft: () => step(-1),
              " ": onClose,
              f: () => setView({ zoom: 0, cx: 0.5, cy: 0.5 }),
              1: () => zoomTo(1),
              2: () => zoomTo(2),
            };
            const f = keys[e.key];
            if (f) {
              e.preventDefault();
              e.stopPropagation();
              f();
            }
          }}
        >
          <div
            className={`relative grow overflow-hidden ${view.zoom ? "cursor-grab" : "cursor-zoom-in"}`}
            onWheel={(e) => zoomTo(z * Math.exp(-e.deltaY * 0.0022), e.clientX, e.clientY)}
            onPointerDown={(e) => {
              e.currentTarget.setPointerCapture(e.pointerId);
              drag.current = { x: e.clientX, y: e.clientY, cx, cy };
            }}
            onPointerMove={(e) => {
              const d = drag.current;
              if (d && view.zoom)
                setView({
                  ...view,
                  cx: d.cx - (e.clientX - d.x) / (w * z),
                  cy: d.cy - (e.clientY - d.y) / (h * z),
                });
            }}
            onPointerUp={(e) => {
              const d = drag.current;
              drag.current = undefined;
              if (d && Math.hypot(e.clientX - d.x, e.clientY - d.y) < 3 && !view.zoom)
                zoomTo(1, e.clientX, e.clientY);
            }}
          >
            <img
              src={urls[frame.hash] ?? small}
              alt={frame.info.name}
              draggable={false}
              className="absolute max-w-none select-none"
              style={{
                width: w * z,
                height: h * z,
                left: size.width / 2 - cx * w * z,
                top: size.height / 2 - cy * h * z,
                imageRendering: z >= 2 ? "pixelated" : "auto",
              }}
            />
            {!urls[frame.hash] && (
              <p
                role="status"
                className="absolute left-3 top-3 rounded bg-panel/90 px-2 py-1 text-[12px]"
              >
                {failed[frame.hash] ?? "Reading at full size"}
              </p>
            )}
          </div>
          <div className="flex h-10 shrink-0 items-center gap-4 border-t border-line bg-panel px-4">
            <Dialog.Title className="font-semibold">{frame.info.name}</Dialog.Title>
            <span className="text-quiet">
              {at + 1} of {frames.length}
              {evs[at] === undefined ? "" : `, ${signed(evs[at])} EV`},{" "}
              {shutter(frame.info.exif.exposureTime)}
              {frame.info.exif.aperture ? `, f/${frame.info.exif.aperture}` : ""}
              {frame.info.exif.iso ? `, ISO ${frame.info.exif.iso}` : ""}
            </span>
            <span className="grow" />
            <span className="text-quiet">{Math.round(z * 100)} %</span>
            <span className="text-[12px] text-quiet">← → step, 1 100 %, F whole, Space back</span>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

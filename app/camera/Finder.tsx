import { useEffect, useRef } from "react";
import { rayOf } from "../../core/panorama/camera";
import { apply } from "../../core/math/matrix3";
import { FRAME, type CameraSettings, type PlannedShot } from "../../simulate/programme";
import { lookingAt } from "../../simulate/sweep";
import type { StandIn } from "../work/standIn";

interface Props {
  camera: StandIn;
  settings: CameraSettings;
  shots: readonly PlannedShot[];
  /** how many of them are taken */
  taken: number;
}

/**
 * The scene as it is metered, with the outline of every frame that will be taken; those that are
 * taken stand out.
 */
export function Finder({ camera, settings: s, shots, taken }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { picture, reach, scene } = camera;
  const { width, height } = picture;
  useEffect(() => {
    const c = canvas.current!;
    c.width = width;
    c.height = height;
    c.getContext("2d")!.drawImage(picture, 0, 0);
  }, [picture, width, height]);
  const portrait = s.turned === "portrait";
  const [w, h] = portrait ? [FRAME.height, FRAME.width] : [FRAME.width, FRAME.height];
  const lens = {
    focalPx: (s.focal / 36) * FRAME.width,
    distortion: [0, 0, 0] as [number, number, number],
    width: w,
    height: h,
  };
  const outline = ({ yaw, pitch }: PlannedShot): string =>
    Array.from({ length: 32 }, (_, i) => {
      const side = Math.floor(i / 8);
      const t = (i % 8) / 8;
      const [x, y] = [
        [t, 0],
        [1, t],
        [1 - t, 1],
        [0, 1 - t],
      ][side]!;
      const d = apply(lookingAt(yaw, pitch, 0), rayOf(lens, x! * w, y! * h));
      const lon = (Math.atan2(d[0], d[2]) * 180) / Math.PI;
      const lat = (Math.atan2(d[1], Math.hypot(d[0], d[2])) * 180) / Math.PI;
      return `${(((lon - reach!.right) / reach!.across + 0.5) * width).toFixed(1)},${(((lat + reach!.up) / reach!.down + 0.5) * height).toFixed(1)}`;
    }).join(" ");
  // a bracket is taken of one place
  const places = reach
    ? shots.filter(
        (p, i) => i === 0 || p.yaw !== shots[i - 1]!.yaw || p.pitch !== shots[i - 1]!.pitch,
      )
    : [];
  const each = places.length ? shots.length / places.length : 1;
  const line = width / 700;
  const cut = scene.focal / s.focal;
  return (
    <div className="grid h-full min-h-0 place-items-center p-4">
      <div
        className="relative max-h-full max-w-full"
        style={{ aspectRatio: `${width} / ${height}`, width: "100%" }}
      >
        <canvas ref={canvas} data-ready={scene.id} className="absolute inset-0 size-full" />
        <svg
          role="img"
          aria-label={
            reach
              ? `${places.length} places, ${Math.floor(taken / each)} taken`
              : `The frame of a ${s.focal} mm lens`
          }
          viewBox={`0 0 ${width} ${height}`}
          className="absolute inset-0 size-full overflow-visible"
        >
          {places.map((p, i) => (
            <polygon
              key={i}
              points={outline(p)}
              fill={i < taken / each ? "rgb(255 255 255 / 0.16)" : "none"}
              stroke="#fff"
              strokeOpacity={i < taken / each ? 1 : 0.65}
              strokeWidth={line}
              strokeDasharray={i < taken / each ? undefined : `${line * 4} ${line * 3}`}
            />
          ))}
          {!reach && cut < 0.999 && (
            <rect
              x={(width * (1 - cut)) / 2}
              y={(height * (1 - cut)) / 2}
              width={width * cut}
              height={height * cut}
              fill="none"
              stroke="#fff"
              strokeWidth={line}
            />
          )}
        </svg>
      </div>
    </div>
  );
}

import { useEffect, useState, type ReactNode } from "react";
import { Link } from "react-router";
import { Button } from "../ui/Button";

/** What a shelf without shoots says: what will happen, and how to begin. */
export function EmptyShelf({ onDemo }: { onDemo: () => void }) {
  const [address, setAddress] = useState("");
  useEffect(() => setAddress(location.host), []);
  return (
    <div className="mx-auto mt-10 max-w-2xl text-center">
      <h2 className="text-lg font-semibold">No shoots yet</h2>
      <WhatHappens />
      <p className="mt-4">
        Drop a folder of frames anywhere on this page: what belongs together is found, each stack
        becomes one picture.
      </p>
      <p className="mt-1 text-quiet">Nothing leaves this machine.</p>
      <div className="mt-5 flex justify-center gap-2">
        <Button onClick={onDemo}>Bring in the demo shoot</Button>
        <Link
          to="/storage"
          className="inline-flex h-7 items-center rounded border border-line bg-raised px-3 hover:border-quiet pointer-coarse:h-10"
        >
          Restore a backup
        </Link>
      </div>
      <p className="mt-8 text-[12px] text-quiet">
        A browser keeps shoots for the address that they were brought in at; here it is {address}.
        Were there shoots before? Open Rhizome at the address of then, back them up there, and
        restore them here.
      </p>
    </div>
  );
}

/** Frames, the stacks that they are found to be, and a picture of each: drawn in one line. */
function WhatHappens() {
  return (
    <svg
      role="img"
      aria-label="Many frames become a few stacks, and each stack one picture"
      viewBox="0 0 640 190"
      className="mt-4 w-full fill-none stroke-quiet"
      strokeWidth="1.5"
    >
      <Group x={0} title="Frames">
        {Array.from({ length: 12 }, (_, i) => (
          <rect
            key={i}
            x={8 + (i % 4) * 42}
            y={40 + Math.floor(i / 4) * 34}
            width="36"
            height="24"
            rx="2"
          />
        ))}
      </Group>
      <Arrow x={190} />
      <Group x={236} title="Stacks">
        {[0, 1, 2, 3].map((i) => (
          <rect key={i} x={20 + i * 12} y={64 - i * 8} width="36" height="24" rx="2" />
        ))}
        {[0, 1, 2, 3].map((i) => (
          <rect key={i} x={6 + i * 26} y={104} width="36" height="24" rx="2" />
        ))}
        {[0, 1, 2, 3].map((i) => (
          <rect
            key={i}
            x={20 + i * 9}
            y={142 + i * 5}
            width={36 - i * 3}
            height={24 - i * 2}
            rx="2"
          />
        ))}
      </Group>
      <Arrow x={396} />
      <Group x={440} title="Pictures">
        <g className="stroke-accent" strokeWidth="2">
          <rect x="24" y="36" width="54" height="36" rx="2" />
          <path d="M24 62l16-14 12 9 10-8 16 13" />
          <rect x="6" y="92" width="120" height="36" rx="2" />
          <path d="M6 118l26-14 22 10 28-16 44 20" />
          <rect x="24" y="146" width="54" height="36" rx="2" />
          <circle cx="51" cy="164" r="9" />
        </g>
      </Group>
    </svg>
  );
}

function Group({ x, title, children }: { x: number; title: string; children: ReactNode }) {
  return (
    <g transform={`translate(${x} 0)`}>
      <text x="8" y="22" className="fill-quiet stroke-none text-[13px]">
        {title}
      </text>
      {children}
    </g>
  );
}

const Arrow = ({ x }: { x: number }) => (
  <path d={`M${x} 104h26m-7 -6l7 6l-7 6`} strokeLinecap="round" strokeLinejoin="round" />
);

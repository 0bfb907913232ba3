import { useEffect, type ReactNode } from "react";
import {
  isRouteErrorResponse,
  Link,
  Links,
  Meta,
  Outlet,
  Scripts,
  ScrollRestoration,
  useRevalidator,
  useRouteError,
} from "react-router";
import { Tooltip } from "radix-ui";
import { RhizomeError } from "../core/error";
import { isolate } from "./offline/isolate";
import { Offline } from "./offline/Offline";
import { sweepBackups } from "./backup/backupFile";
import { sweepOrphans } from "./store/sweepOrphans";
import { onTabMessage } from "./store/tabs";
import { stopBringingInto } from "./work/bringing";
import { keepTrayOrder, resumeQueue } from "./work/deliveries";
import { stopWorkOf } from "./work/jobs";
import { applySurround } from "./ui/surround";
import "./app.css";

export function Layout({ children }: { children: ReactNode }) {
  return (
    <html lang="en" data-surround="dark">
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>Rhizome</title>
        <link rel="icon" href="/icon.svg" type="image/svg+xml" />
        <link rel="apple-touch-icon" href="/icon-192.png" />
        <link rel="manifest" href="/manifest.webmanifest" />
        <Meta />
        <Links />
      </head>
      <body>
        {children}
        <ScrollRestoration />
        <Scripts />
      </body>
    </html>
  );
}

export function HydrateFallback() {
  return <p className="p-6 text-quiet">Opening Rhizome…</p>;
}

export default function Root() {
  const { revalidate } = useRevalidator();
  useEffect(() => applySurround(), []);
  useEffect(() => void isolate().catch(() => undefined), []);
  useEffect(
    () =>
      onTabMessage((message) => {
        if (message.what === "shoot deleted") {
          stopWorkOf(message.shoot);
          stopBringingInto(message.shoot);
        }
        void revalidate();
      }),
    [revalidate],
  );
  useEffect(
    () =>
      void sweepOrphans()
        .then(resumeQueue)
        .then(sweepBackups)
        .catch(() => undefined),
    [],
  );
  useEffect(() => keepTrayOrder(), []);
  return (
    <Tooltip.Provider delayDuration={500}>
      <Outlet />
      <Offline />
    </Tooltip.Provider>
  );
}

export function ErrorBoundary() {
  const error = useRouteError();
  const e = isRouteErrorResponse(error)
    ? new RhizomeError("not-found", "There is nothing at this address.", "go back to the shelf")
    : RhizomeError.from(error);
  return (
    <main className="mx-auto flex h-full max-w-xl flex-col justify-center gap-3 p-8">
      <h1 className="text-xl font-semibold">This did not work</h1>
      <p>{e.message}</p>
      {e.remedy && <p className="text-quiet">What to do: {e.remedy}.</p>}
      <p>
        <Link className="text-accent underline" to="/shoots">
          To the shelf
        </Link>
      </p>
      <Offline />
    </main>
  );
}

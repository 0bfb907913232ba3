import { useEffect, useRef } from "react";
import { takeShared } from "../offline/shared";

/** What an installed application is opened with, where the browser does that (File Handling). */
interface LaunchQueue {
  setConsumer(take: (launch: { files: readonly FileSystemFileHandle[] }) => void): void;
}

/** Takes files that the system opens with Rhizome, and those that another application shared. */
export function useFilesFromSystem(onFiles: (files: File[]) => void): void {
  const latest = useRef(onFiles);
  useEffect(() => {
    latest.current = onFiles;
  });
  useEffect(() => {
    const take = (files: File[]): void => {
      if (files.length) latest.current(files);
    };
    const { launchQueue } = globalThis as { launchQueue?: LaunchQueue };
    launchQueue?.setConsumer(({ files }) => {
      void Promise.all(files.map((handle) => handle.getFile())).then(take);
    });
    void takeShared().then(take);
  }, []);
}

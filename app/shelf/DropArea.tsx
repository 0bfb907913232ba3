import { useEffect, useRef, useState, type ReactNode } from "react";
import { droppedFiles } from "./useBringIn";

/** Takes drops over the whole screen, and pasted files. */
export function DropArea({
  onFiles,
  text = "Drop to bring in",
  children,
}: {
  onFiles: (files: File[]) => void;
  /** what a drop will do */
  text?: string;
  children: ReactNode;
}) {
  const [over, setOver] = useState(false);
  const latest = useRef(onFiles);
  useEffect(() => {
    latest.current = onFiles;
  });
  useEffect(() => {
    const paste = (e: ClipboardEvent): void => {
      const files = [...(e.clipboardData?.files ?? [])];
      if (files.length) {
        e.preventDefault();
        latest.current(files);
      }
    };
    window.addEventListener("paste", paste);
    return () => window.removeEventListener("paste", paste);
  }, []);
  return (
    <div
      className="relative flex h-full flex-col"
      onDragOver={(e) => {
        if (e.dataTransfer.types.includes("Files")) {
          e.preventDefault();
          setOver(true);
        }
      }}
      onDragLeave={(e) => {
        if (e.currentTarget === e.target || !e.relatedTarget) setOver(false);
      }}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void droppedFiles(e.dataTransfer).then(onFiles);
      }}
    >
      {children}
      {over && (
        <div className="pointer-events-none absolute inset-3 z-30 grid place-items-center rounded-lg border-2 border-dashed border-accent bg-ground/80 text-lg">
          {text}
        </div>
      )}
    </div>
  );
}

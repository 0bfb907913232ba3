import { useEffect, useState } from "react";

/** A stored picture. Its address lives as long as it is shown. */
export function Picture({
  blob,
  alt,
  className = "",
}: {
  blob: Blob | undefined;
  alt: string;
  className?: string;
}) {
  const [url, setUrl] = useState<string>();
  useEffect(() => {
    if (!blob) {
      setUrl(undefined);
      return;
    }
    const u = URL.createObjectURL(blob);
    setUrl(u);
    return () => URL.revokeObjectURL(u);
  }, [blob]);
  return url ? (
    <img src={url} alt={alt} draggable={false} className={className} />
  ) : (
    <span role="img" aria-label={alt} className={`block bg-raised ${className}`} />
  );
}

import { useEffect } from "react";
import { holdObjectUrl, objectUrlOf } from "./objectUrl";

/** A stored picture. Its address lives as long as it is shown. */
export function Picture({
  blob,
  alt,
  className = "",
  style,
}: {
  blob: Blob | undefined;
  alt: string;
  className?: string;
  style?: React.CSSProperties;
}) {
  useEffect(() => (blob ? holdObjectUrl(blob) : undefined), [blob]);
  return blob ? (
    <img
      src={objectUrlOf(blob)}
      alt={alt}
      draggable={false}
      decoding="async"
      className={className}
      style={style}
    />
  ) : (
    <span role="img" aria-label={alt} className={`block bg-raised ${className}`} style={style} />
  );
}

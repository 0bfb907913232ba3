import { createHash } from "node:crypto";
import type { RequestHandler } from "express";

/** What a page may ask the machine for: nothing but memory shared between its own threads. */
const PERMISSIONS = [
  "cross-origin-isolated=(self)",
  "fullscreen=(self)",
  "screen-wake-lock=(self)",
  ...[
    "accelerometer",
    "autoplay",
    "browsing-topics",
    "camera",
    "display-capture",
    "encrypted-media",
    "geolocation",
    "gyroscope",
    "hid",
    "magnetometer",
    "microphone",
    "midi",
    "payment",
    "publickey-credentials-get",
    "serial",
    "usb",
    "xr-spatial-tracking",
  ].map((feature) => `${feature}=()`),
].join(", ");

/**
 * The policy of the page: nothing from elsewhere. The router writes its start-up into the page:
 * those scripts are allowed by their hashes, and no others.
 */
function pagePolicy(page: string): string {
  const hashes = [...page.matchAll(/<script(?![^>]*\bsrc=)[^>]*>([\s\S]*?)<\/script>/g)].map(
    (script) => `'sha256-${createHash("sha256").update(script[1]!).digest("base64")}'`,
  );
  return [
    "default-src 'self'",
    `script-src 'self' 'wasm-unsafe-eval' ${[...new Set(hashes)].join(" ")}`,
    "worker-src 'self'",
    "manifest-src 'self'",
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' blob: data:",
    "connect-src 'self'",
    "font-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join("; ");
}

/**
 * libvips makes its bindings from strings at run time: allowed in the decoding workers, which see no
 * page, and nowhere else.
 */
const WORKER_POLICY =
  "default-src 'none'; script-src 'self' 'wasm-unsafe-eval' 'unsafe-eval'; worker-src 'self'; connect-src 'self' blob:";
const isWorker = (path: string): boolean =>
  /^\/(vips|libraw)\/|\/(webWorker|helperWorker)-[\w-]+\.js$/.test(path);

/** Sets what every answer carries. @param page  the page's HTML */
export function securityHeaders(page: string): RequestHandler {
  const policy = pagePolicy(page);
  return (request, response, next) => {
    response.set({
      "Cross-Origin-Opener-Policy": "same-origin",
      "Cross-Origin-Embedder-Policy": "require-corp",
      "Cross-Origin-Resource-Policy": "same-origin",
      "Content-Security-Policy": isWorker(request.path) ? WORKER_POLICY : policy,
      "Permissions-Policy": PERMISSIONS,
      "X-Content-Type-Options": "nosniff",
      "Referrer-Policy": "no-referrer",
    });
    next();
  };
}

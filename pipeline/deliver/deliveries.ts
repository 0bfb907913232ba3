import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { DeliverySchema, fileSettings, type Delivery } from "./settings";

const rest = fileSettings.defaults;

/** Those that everybody has: for the client, the web, the next program, print, and HDR displays. */
export const BUILT_IN_DELIVERIES: readonly Delivery[] = [
  {
    name: "Client",
    on: true,
    settings: { ...rest, quality: 92, pattern: "{name}" },
  },
  {
    name: "Web",
    on: true,
    settings: {
      ...rest,
      size: "long 2048",
      quality: 82,
      chroma: "half",
      sharpenFor: "screen",
      metadata: "noPlace",
      pattern: "{name}-web",
    },
  },
  {
    name: "Next program",
    on: true,
    settings: {
      ...rest,
      format: "tif",
      depth: "16",
      space: "prophoto",
      pattern: "{name}-16bit",
    },
  },
  {
    name: "Print",
    on: true,
    settings: {
      ...rest,
      format: "tif",
      depth: "8",
      space: "adobe",
      sharpenFor: "matte",
      border: 0.03,
      pattern: "{name}-print",
    },
  },
  {
    name: "HDR display",
    on: true,
    settings: { ...rest, space: "p3", headroom: 2.5, pattern: "{name}-hdr" },
  },
];

/** A delivery that is built in, by its name in small or large letters. */
export const builtInDelivery = (name: string): Delivery | undefined =>
  BUILT_IN_DELIVERIES.find((own) => own.name.toLowerCase() === name.toLowerCase());

/** Reads a delivery that came from outside. @throws RhizomeError `delivery-invalid` */
export function parseDelivery(data: unknown, file: string): Delivery {
  const read = v.safeParse(DeliverySchema, data);
  if (read.success) return read.output;
  const issue = read.issues[0];
  const path = v.getDotPath(issue);
  throw new RhizomeError(
    "delivery-invalid",
    `${file} is no delivery: ${path ? `${path}: ` : ""}${issue.message}.`,
    'write { "name": ..., "settings": { "format": "jpg", "size": "long 2048" } }',
  );
}

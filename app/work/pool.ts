import { webHost } from "../../engine/hosts/web";
import { Pool } from "../../engine/pool";

let one: Pool | undefined;

/** The page's one pool of workers, started when first needed. */
export function pool(): Pool {
  return (one ??= new Pool(webHost()));
}

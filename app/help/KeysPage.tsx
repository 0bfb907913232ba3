import { KeyList } from "../keys/KeyList";
import { EVERYWHERE, SCREEN_KEYS } from "../keys/keys";

const SECTIONS = [{ title: "Everywhere", keys: EVERYWHERE }, ...Object.values(SCREEN_KEYS)];

/** The keys of all screens. */
export const KeysPage = () =>
  SECTIONS.map(({ title, keys }) => (
    <section key={title} className="break-inside-avoid">
      <h3 className="mb-2 mt-6 text-[15px] font-semibold">{title}</h3>
      <KeyList keys={keys} width={200} />
    </section>
  ));

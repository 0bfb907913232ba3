import { EVERYWHERE, SCREEN_KEYS, type KeyLine } from "../keys/keys";

/** The keys of all screens. */
export const KeysPage = () => (
  <>
    <Keys title="Everywhere" keys={EVERYWHERE} />
    {Object.values(SCREEN_KEYS).map(({ title, keys }) => (
      <Keys key={title} title={title} keys={keys} />
    ))}
  </>
);

function Keys({ title, keys }: { title: string; keys: readonly KeyLine[] }) {
  return (
    <section className="break-inside-avoid">
      <h2 className="mt-6 text-[15px] font-semibold">{title}</h2>
      <dl className="mt-2 grid grid-cols-[200px_1fr] gap-y-1">
        {keys.map(([key, does]) => (
          <div key={`${key} ${does}`} className="contents">
            <dt>
              <kbd className="rounded border border-line px-1.5 py-0.5 font-sans text-[12px]">
                {key}
              </kbd>
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

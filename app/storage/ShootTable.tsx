import { Link } from "react-router";
import type { ShootUse } from "../store/usage";
import { Checkbox } from "../ui/Checkbox";
import { bytesText } from "../ui/bytesText";

interface Props {
  shoots: readonly ShootUse[];
  chosen: ReadonlySet<string>;
  onChosen: (ids: ReadonlySet<string>) => void;
}

const totalOf = ({ originals, pictures, kept }: ShootUse): number => originals + pictures + kept;

/** Shoots with what each takes, to be chosen. */
export function ShootTable({ shoots, chosen, onChosen }: Props) {
  const isAll = shoots.length > 0 && chosen.size === shoots.length;
  const toggle = (id: string, on: boolean): void => {
    const next = new Set(chosen);
    if (on) next.add(id);
    else next.delete(id);
    onChosen(next);
  };
  return (
    <table className="w-full border-collapse">
      <thead className="text-left text-[12px] text-quiet">
        <tr className="h-8 border-b border-line [&>th]:font-normal">
          <th className="w-8">
            <Checkbox
              name="All shoots"
              checked={isAll}
              onChange={(on) => onChosen(new Set(on ? shoots.map(({ shoot }) => shoot.id) : []))}
            />
          </th>
          <th>Shoot</th>
          <Right text="Frames" />
          <Right text="Originals" />
          <Right text="Small pictures" />
          <Right text="Kept merges" />
          <Right text="Together" />
        </tr>
      </thead>
      <tbody>
        {shoots.map((use) => (
          <tr key={use.shoot.id} className="h-9 border-b border-line">
            <td>
              <Checkbox
                name={use.shoot.name}
                checked={chosen.has(use.shoot.id)}
                onChange={(on) => toggle(use.shoot.id, on)}
              />
            </td>
            <td className="max-w-0 truncate pr-4">
              <Link to={`/shoots/${use.shoot.id}`} className="rounded hover:underline">
                {use.shoot.name}
              </Link>
              {use.shoot.partial && (
                <span className="ml-2 text-[12px] text-quiet">Not whole: restore it once more</span>
              )}
            </td>
            <Numeral text={String(use.frames)} />
            <Numeral text={bytesText(use.originals)} />
            <Numeral text={bytesText(use.pictures)} />
            <Numeral text={bytesText(use.kept)} />
            <Numeral text={bytesText(totalOf(use))} isStrong />
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const Right = ({ text }: { text: string }) => (
  <th className="w-32 whitespace-nowrap text-right">{text}</th>
);
const Numeral = ({ text, isStrong = false }: { text: string; isStrong?: boolean }) => (
  <td className={`whitespace-nowrap text-right tabular-nums ${isStrong ? "" : "text-quiet"}`}>
    {text}
  </td>
);

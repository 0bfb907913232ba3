import { settingLines } from "../../pipeline/settings/reference";
import { STEP_TITLES } from "../workspace/steps/stepTitles";
import { anchorOf } from "./address";

/** Every setting of every step, from its own description. */
export function SettingsPage() {
  return (
    <>
      <p className="mt-2">
        Names in grey are those of recipes as files and of the command line. Defaults and ranges
        stand beside.
      </p>
      {settingLines().map(({ step, lines }) => (
        <section key={step}>
          <h3 id={step} className="mt-6 scroll-mt-4 text-[15px] font-semibold">
            {STEP_TITLES[step]}
          </h3>
          <dl>
            {lines.map(({ name, label, help, values, unit, when }) => (
              <div
                key={name}
                id={anchorOf(name)}
                className="grid scroll-mt-4 grid-cols-[200px_1fr] gap-x-4 border-b border-line py-1.5"
              >
                <dt>
                  {label}
                  <span className="block break-all text-[12px] text-quiet">{name}</span>
                </dt>
                <dd>
                  {help}
                  <span className="block text-[12px] text-quiet">
                    {values.replaceAll("`", "")}
                    {unit && `, ${unit}`}
                    {when && `; where ${when.replaceAll("`", "")}`}
                  </span>
                </dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
    </>
  );
}

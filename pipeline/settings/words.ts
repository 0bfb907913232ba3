import type { Condition, Field } from "./fields";

/** A schema as it is looked into to say what it takes. */
interface Shape {
  type: string;
  pipe?: readonly (Shape & { requirement?: unknown })[];
  options?: readonly unknown[];
  literal?: unknown;
  item?: Shape;
  items?: readonly Shape[];
  wrapped?: Shape;
  entries?: Record<string, Shape>;
}

const quoted = (value: unknown): string => `\`${String(value)}\``;

/** What a schema takes, in words. */
function valuesOf(schema: Shape): string {
  if (schema.pipe) return valuesOfPipe(schema.pipe);
  switch (schema.type) {
    case "picklist":
      return (schema.options as readonly string[]).map(quoted).join(", ");
    case "literal":
      return quoted(schema.literal);
    case "union":
      return (schema.options as readonly Shape[]).map(valuesOf).join("; ");
    case "array":
      return `list: ${valuesOf(schema.item!)}`;
    case "tuple":
      return schema.items!.map(valuesOf).join(" and ");
    case "object":
      return `{ ${Object.keys(schema.entries!).join(", ")} }`;
    case "variant":
      return "one of several shapes";
    default:
      return schema.type;
  }
}

/** What a schema with rules after it takes. */
function valuesOfPipe([base, ...rules]: NonNullable<Shape["pipe"]>): string {
  const bound = (kind: string): unknown => rules.find((rule) => rule.type === kind)?.requirement;
  if (base!.type !== "number") {
    const length = bound("length");
    return length === undefined ? valuesOf(base!) : `${valuesOf(base!)}, ${String(length)} of them`;
  }
  const [least, most] = [bound("min_value"), bound("max_value")];
  const whole = rules.some((rule) => rule.type === "integer") ? "whole number" : "number";
  return least === undefined || most === undefined
    ? whole
    : `${whole}, ${String(least)} to ${String(most)}`;
}

/** What a setting takes, in words; of a choice also which kinds alone know a value. */
export function valuesSaid(field: Field): string {
  if (field.type === "choice")
    return field.options
      .map(({ value, kinds }) => `${quoted(value)}${kinds ? ` (${kinds.join(", ")})` : ""}`)
      .join(", ");
  if (field.type === "text") return `text, ${field.longest} characters at most`;
  if (field.type !== "number") return valuesOf(field.schema as unknown as Shape);
  return `${field.whole ? "whole number" : "number"}, ${field.min} to ${field.max}`;
}

/** When a setting has an effect, in words; empty where it always has. */
export function whenSaid({ kinds, settings = {}, unless = {} }: Condition = {}): string {
  const said = (verb: string, others: typeof settings): string[] =>
    Object.entries(others).map(
      ([name, values]) => `${quoted(name)} ${verb} ${values.map(quoted).join(" or ")}`,
    );
  return [
    ...(kinds ? [kinds.join(", ")] : []),
    ...said("is", settings),
    ...said("is not", unless),
  ].join("; ");
}

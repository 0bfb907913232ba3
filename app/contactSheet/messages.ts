import * as v from "valibot";

/** What a contact sheet is made of, as its worker is told. */
export const SheetOrderSchema = v.object({
  title: v.string(),
  paper: v.string(),
  columns: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(12)),
  format: v.picklist(["pdf", "jpg"]),
  entries: v.array(
    v.object({
      picture: v.optional(v.instance(Blob)),
      /** the first is the name */
      lines: v.array(v.string()),
    }),
  ),
});
export type SheetOrder = v.InferOutput<typeof SheetOrderSchema>;

/** What the worker answers. */
export const SheetAnswerSchema = v.variant("what", [
  v.object({ what: v.literal("page"), page: v.number(), of: v.number() }),
  v.object({ what: v.literal("done"), files: v.array(v.instance(Blob)) }),
  v.object({ what: v.literal("failed"), message: v.string() }),
]);
export type SheetAnswer = v.InferOutput<typeof SheetAnswerSchema>;

/** A number with its unit, or two of them with a sign between, as sentences have them. */
const NUMBER_WITH_UNIT =
  /([+\u2212]?\d[\d.,]*(?: [×x] \d[\d.,]*)? ?(?:px|EV|%|MP|dB|ms|s|min|cm|in|K|ppi|°)(?![\w]))/;

/** A sentence in which no line ends between a number and its unit. */
export function WholeNumbers({ text }: { text: string }) {
  return text.split(NUMBER_WITH_UNIT).map((part, i) =>
    i % 2 ? (
      <span key={i} className="whitespace-nowrap">
        {part}
      </span>
    ) : (
      part
    ),
  );
}

import Markdown, { type Components } from "react-markdown";
import remarkGfm from "remark-gfm";
import { Link } from "react-router";
import { anchorOf } from "./address";

/** The text of a node, for its anchor. */
const textOf = (children: React.ReactNode): string =>
  Array.isArray(children) ? children.map(textOf).join("") : String(children ?? "");

const COMPONENTS: Components = {
  h2: ({ children }) => (
    <h3 id={anchorOf(textOf(children))} className="mt-6 scroll-mt-4 text-[15px] font-semibold">
      {children}
    </h3>
  ),
  p: ({ children }) => <p className="mt-2">{children}</p>,
  em: ({ children }) => <em className="font-semibold not-italic">{children}</em>,
  ul: ({ children }) => <ul className="mt-2 list-disc pl-5">{children}</ul>,
  a: ({ href, children }) => (
    <Link to={`/help/${href}`} className="underline decoration-quiet underline-offset-2">
      {children}
    </Link>
  ),
  table: ({ children }) => <table className="mt-3 border-collapse">{children}</table>,
  tr: ({ children }) => <tr className="border-b border-line">{children}</tr>,
  th: ({ children }) => (
    <th className="py-1 pr-6 text-left text-[12px] font-normal text-quiet">{children}</th>
  ),
  td: ({ children }) => <td className="py-1 pr-6 align-top">{children}</td>,
};

/** A page's text. */
export const Article = ({ text }: { text: string }) => (
  <Markdown remarkPlugins={[remarkGfm]} components={COMPONENTS}>
    {text}
  </Markdown>
);

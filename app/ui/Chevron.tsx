/** Says that something opens below. */
export const Chevron = () => (
  <svg
    aria-hidden
    viewBox="0 0 10 6"
    className="w-2 shrink-0 fill-none stroke-current stroke-[1.5]"
  >
    <path d="M1 1l4 4 4-4" />
  </svg>
);

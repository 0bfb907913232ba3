/** The screens that belong to no shoot, as they are listed beside the name: a new one is a line. */
export const SCREENS = [
  { to: "/shoots", text: "Shoots" },
  { to: "/deliver", text: "Deliver" },
  { to: "/looks", text: "Looks" },
  { to: "/storage", text: "Storage" },
  { to: "/camera", text: "Stand-in camera" },
  { to: "/help", text: "Help" },
] as const;

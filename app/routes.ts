import { index, route, type RouteConfig } from "@react-router/dev/routes";

export default [
  index("routes/home.tsx"),
  route("shoots", "routes/shoots.tsx"),
  route("shoots/:shoot", "routes/board.tsx"),
  route("shoots/:shoot/:stack", "routes/workspace.tsx"),
  route("shoots/:shoot/:stack/compare", "routes/compare.tsx"),
  route("deliver", "routes/deliver.tsx"),
  route("looks", "routes/looks.tsx"),
  route("storage", "routes/storage.tsx"),
  route("help/:page?", "routes/help.tsx"),
  route("camera", "routes/camera.tsx"),
  route("*", "routes/missing.tsx"),
] satisfies RouteConfig;

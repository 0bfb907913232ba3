import type { Config } from "@react-router/dev/config";

export default { appDirectory: "app", buildDirectory: "build", ssr: false } satisfies Config;

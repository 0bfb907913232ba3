import type { Config } from "@react-router/dev/config";

export default { appDirectory: "app", buildDirectory: "build/app", ssr: false } satisfies Config;

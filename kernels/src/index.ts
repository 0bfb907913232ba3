export { linearise, erodeValidity, resampleBicubic, worthwhileRuns, foldRow, finaliseRadiance } from "./merge";
export { pyrDown, pyrUp } from "./pyramid";
export { logLuminance, remapAround, selectLevel, renderRow } from "./tone";
export { selectSamples, normalEquations, similarityEquations } from "./register";
export { logRow, foldLog, disagreement } from "./logRadiance";

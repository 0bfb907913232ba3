export { linearise, foldUntouched, foldWarped, finaliseRadiance } from "./merge";
export { pyrDown, pyrUp } from "./pyramid";
export { logLuminance, remapAround, selectLevel, renderRow } from "./tone";
export { normalEquations, similarityEquations } from "./register";

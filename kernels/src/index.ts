export { linearise, erodeValidity, resampleBicubic, warpRow, worthwhileRuns, foldRow, finaliseRadiance, voteRow } from "./merge";
export { pyrDown, pyrUp } from "./pyramid";
export { remapAround, selectLevel, gainRow, renderRow, gridRow, histogram, sumOfThree, gainLine } from "./tone";
export { selectSamples, normalEquations, similarityEquations } from "./register";
export { logRow, foldLog, disagreement } from "./logRadiance";
export { boxMean } from "./filter";
export { weightedRows, resizeAcross } from "./resize";
export { fusionWeights, channelOf, packRow, addProduct, divideBy, addPlane, takeWhere, maxPlane, toScene, coveredSquares, addAlongDepth } from "./fuse";
export { likenesses } from "./match";

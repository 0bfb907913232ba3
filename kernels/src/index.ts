export {
  linearise,
  clippedBlocks,
  doubtBlocks,
  erodeValidity,
  worthwhileRuns,
  foldRow,
  finaliseRadiance,
  confidenceRow,
} from "./merge";
export {
  cornerRoom,
  cornerStrength,
  peaks,
  distancesToStronger,
  descriptionRoom,
  describeCorner,
} from "./corners";
export { isUpright, acrossTile, downRow, resampleBicubic, resampleSix } from "./resample";
export { warpRows, warpColumn, shareRows } from "./warpPanorama";
export { pyrDown, pyrUp } from "./pyramid";
export {
  remapAround,
  selectLevel,
  gainRow,
  renderRow,
  gridRow,
  histogram,
  sumOfThree,
  gainLine,
} from "./tone";
export { selectSamples, bestShift, normalEquations, similarityEquations } from "./register";
export { logRow, lightOf, foldLog, brightest, disagreement } from "./logRadiance";
export { blockSlopes } from "./slopes";
export { boxMean, smoothWeighted } from "./filter";
export { guidedProducts, guidedLines, guidedValues } from "./guided";
export { weightedRows, resizeAcross, addGroups } from "./resize";
export {
  packWeights,
  unpackWeights,
  fusionWeights,
  channelOf,
  packRow,
  evenCorners,
  squares,
  roots,
  addProduct,
  divideBy,
  addPlane,
  takeWhere,
  maxPlane,
  notePeak,
  toScene,
  coveredSquares,
  addAlongDepth,
  mixByTrust,
  widenRange,
  holdInRange,
} from "./fuse";
export { nearestTwo } from "./match";
export { zero } from "./memory";
export { minimumCut } from "./maxFlow";

export { linearise, clippedBlocks, doubtBlocks, erodeValidity, worthwhileRuns } from "./validity";
export { foldRow, finaliseRadiance, confidenceRow } from "./merge";
export {
  cornerRoom,
  cornerStrength,
  peaks,
  distancesToStronger,
  descriptionRoom,
  describeCorner,
} from "./corners";
export { isUpright, resampleBicubic, resampleSix } from "./resample";
export { acrossTile, downRow } from "./tile";
export { warpRows, warpColumn } from "./warpPanorama";
export { shareRows } from "./panoramaShares";
export { pyrDown, pyrUp } from "./pyramid";
export { gainRow, gridRow, histogram, sumOfThree, gainLine } from "./tone";
export { renderRow, outRow } from "./render";
export {
  logLight,
  partMask,
  addLines,
  addMasked,
  addRamp,
  addRadial,
  steepen,
  scaleMasked,
  mixDenoised,
  clearAir,
  applyGain,
  rollOff,
} from "./finishLight";
export { curveRow, colourRow } from "./finishColour";
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
  toScene,
} from "./fuse";
export {
  takeWhere,
  maxPlane,
  notePeak,
  coveredSquares,
  addAlongDepth,
  mixByTrust,
  widenRange,
  holdInRange,
} from "./focus";
export { nearestTwo } from "./match";
export { zero } from "./memory";
export { minimumCut } from "./maxFlow";
export {
  stabilise,
  unstabilise,
  noiseRow,
  denoiseBlocks,
  divideBlocks,
  blockPowers,
} from "./denoise";
export {
  convolveDown,
  convolveAcross,
  quotient,
  multiplyBy,
  localRange,
  holdOvershoot,
  heldDetail,
  varianceOf,
  noiseEv,
  sharpeningEv,
  edgeShare,
  scaleWithin,
} from "./sharpen";

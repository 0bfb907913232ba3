type N = number;

/** What the compiled kernels export; pointers are byte addresses in the heap's memory. */
export interface Kernels {
  linearise(src: N, kind: N, n: N, lut: N, dst: N): void;
  clippedBlocks(src: N, stride: N, w: N, rows: N, size: N, top: N, dst: N): void;
  doubtBlocks(row: N, n: N, first: N, size: N, blocks: N): void;
  erodeValidity(tile: N, w: N, rows: N, invGain: N, read2: N, room: N): void;
  resampleSix(
    tile: N,
    tx: N,
    ty: N,
    tw: N,
    srcW: N,
    srcH: N,
    y: N,
    x0: N,
    n: N,
    h: N,
    weights: N,
    dst: N,
  ): void;
  resampleBicubic(
    tile: N,
    tx: N,
    ty: N,
    tw: N,
    srcW: N,
    srcH: N,
    y: N,
    x0: N,
    n: N,
    h: N,
    dst: N,
  ): void;
  isUpright(h: N): N;
  acrossTile(tile: N, tx: N, ty: N, tw: N, th: N, x0: N, n: N, h: N, dst: N): void;
  downRow(
    block: N,
    left: N,
    ty: N,
    stride: N,
    srcW: N,
    srcH: N,
    y: N,
    x0: N,
    n: N,
    h: N,
    dst: N,
  ): void;
  warpColumn(
    tile: N,
    tx: N,
    ty: N,
    tw: N,
    th: N,
    nodes: N,
    gap: N,
    n: N,
    height: N,
    gains: N,
    columns: N,
    dst: N,
    line: N,
    planes: N,
  ): void;
  shareRows(
    cells: N,
    across: N,
    x0: N,
    perX: N,
    n: N,
    y0: N,
    perY: N,
    rows: N,
    row: N,
    dst: N,
    line: N,
  ): void;
  warpRows(
    tile: N,
    tx: N,
    ty: N,
    tw: N,
    srcW: N,
    srcH: N,
    tops: N,
    lows: N,
    gap: N,
    n: N,
    down: N,
    rows: N,
    gains: N,
    dst: N,
    line: N,
    planes: N,
  ): void;
  worthwhileRuns(acc: N, plane: N, at: N, n: N, time: N, invGain: N, read2: N, runs: N): N;
  foldRow(
    src: N,
    n: N,
    ghosts: N,
    first: N,
    acc: N,
    plane: N,
    at: N,
    time: N,
    invGain: N,
    read2: N,
    floorConfidence: N,
  ): void;
  confidenceRow(a: N, b: N, gw: N, fy: N, left: N, n: N, scale: N, dst: N): N;
  finaliseRadiance(acc: N, plane: N, n: N, m: N): void;
  pyrDown(src: N, w: N, h: N, dst: N, row: N, y0: N, y1: N): void;
  pyrUp(coarse: N, w: N, h: N, base: N, dst: N, sign: N, row: N, y0: N, y1: N): void;
  boxMean(src: N, w: N, h: N, r: N, row: N, dst: N, y0: N, y1: N): void;
  smoothWeighted(src: N, confidence: N, w: N, h: N, rows: N, dst: N): void;
  guidedProducts(values: N, guide: N, weights: N, n: N, w: N, g: N, v: N, gg: N, gv: N): void;
  guidedLines(w: N, g: N, v: N, gg: N, gv: N, n: N, eps: N): void;
  guidedValues(slope: N, offset: N, guide: N, n: N, dst: N): void;
  weightedRows(rows: N, stride: N, n: N, weights: N, count: N, dst: N): void;
  resizeAcross(row: N, starts: N, weights: N, taps: N, n: N, dst: N): void;
  addGroups(row: N, by: N, n: N, dst: N): void;
  fusionWeights(src: N, w: N, h: N, y0: N, y1: N, rows: N, dst: N): void;
  packRow(src: N, n: N, factor: N, dst: N): void;
  evenCorners(at: N, w: N, y0: N, y1: N, m: N, cx: N, cy: N, perSquare: N, ev: N, slopes: N): void;
  channelOf(src: N, n: N, channel: N, dst: N): void;
  squares(src: N, n: N, dst: N): void;
  roots(at: N, n: N): void;
  addProduct(a: N, b: N, n: N, acc: N): void;
  divideBy(a: N, b: N, n: N): void;
  addPlane(a: N, n: N, acc: N): void;
  takeWhere(e: N, best: N, src: N, n: N, dst: N): void;
  maxPlane(e: N, n: N, best: N): void;
  notePeak(e: N, best: N, n: N, last: N, lower: N, upper: N): void;
  coveredSquares(own: N, weights: N, n: N, dst: N): void;
  addAlongDepth(src: N, n: N, depth: N, k: N, dst: N, planes: N): void;
  mixByTrust(to: N, sum: N, weight: N, trust: N, n: N): void;
  cornerRoom(w: N): number;
  descriptionRoom(): number;
  cornerStrength(log: N, confidence: N, w: N, h: N, room: N, dst: N): void;
  zero(at: N, bytes: N): void;
  widenRange(src: N, n: N, above: N, below: N): void;
  holdInRange(plane: N, n: N, channel: N, above: N, below: N): void;
  peaks(plane: N, w: N, h: N, rim: N, least: N, dst: N): number;
  distancesToStronger(places: N, n: N, w: N, h: N, size: N, room: N, dst: N): void;
  describeCorner(L: N, w: N, h: N, x: N, y: N, xx: N, xy: N, yy: N, room: N, dst: N): number;
  minimumCut(w: N, h: N, terminal: N, right: N, down: N, work: N, sides: N): void;
  nearestTwo(vector: N, all: N, size: N, count: N, place: N, bests: N, likenesses: N, out: N): void;
  packWeights(src: N, n: N, dst: N): void;
  unpackWeights(src: N, n: N, dst: N): void;
  toScene(planes: N, plane: N, n: N, m: N): void;
  gridRow(src: N, plane: N, w: N, y0: N, y1: N, xs: N, gw: N, sums: N, floorEv: N, dst: N): void;
  histogram(src: N, n: N, from: N, perUnit: N, bins: N, counts: N): void;
  sumOfThree(a: N, x: N, b: N, y: N, c: N, z: N, n: N, dst: N): void;
  gainLine(gain: N, product: N, mean: N, variance: N, n: N, eps: N): void;
  gainRow(
    slopes: N,
    offsets: N,
    gw: N,
    gh: N,
    gx: N,
    step: N,
    gy: N,
    n: N,
    s: N,
    line: N,
    dstSlopes: N,
    dstOffsets: N,
  ): void;
  renderRow(src: N, plane: N, n: N, slopes: N, offsets: N, s: N, table: N, kind: N, dst: N): void;
  selectSamples(
    c: N,
    cw: N,
    w: N,
    h: N,
    x0: N,
    y0: N,
    x1: N,
    y1: N,
    cell: N,
    middles: N,
    block: N,
    out: N,
  ): N;
  bestShift(
    places: N,
    turnedX: N,
    turnedY: N,
    count: N,
    c: N,
    cw: N,
    l: N,
    lw: N,
    w: N,
    h: N,
    reach: N,
    rolled: N,
    best: N,
  ): N;
  similarityEquations(
    samples: N,
    count: N,
    l: N,
    lw: N,
    w: N,
    h: N,
    m: N,
    offset: N,
    scale: N,
    out: N,
  ): void;
  normalEquations(
    samples: N,
    count: N,
    l: N,
    lw: N,
    w: N,
    h: N,
    m: N,
    offset: N,
    scale: N,
    out: N,
  ): void;
  logRow(src: N, n: N, logs: N, confidences: N, steps: N, ev: N, log: N, confidence: N): void;
  lightOf(log: N, n: N, gain: N, dst: N): void;
  blockSlopes(
    a: N,
    va: N,
    b: N,
    vb: N,
    w: N,
    h: N,
    m: N,
    rim: N,
    side: N,
    blocks: N,
    lines: N,
    least: N,
    out: N,
  ): void;
  foldLog(
    c: N,
    cv: N,
    l: N,
    lv: N,
    w: N,
    h: N,
    m: N,
    offset: N,
    ghosts: N,
    gw: N,
    gh: N,
    step: N,
  ): void;
  brightest(plane: N, w: N, h: N, out: N): void;
  disagreement(
    c: N,
    cv: N,
    l: N,
    lv: N,
    w: N,
    h: N,
    m: N,
    offset: N,
    ev: N,
    trusted: N,
    clipped: N,
    slack: N,
    reduced: N,
    ringing: N,
    blocksC: N,
    blocksL: N,
    score: N,
  ): void;
  outRow(row: N, plane: N, n: N, s: N, table: N, kind: N, dst: N): void;
  logLight(src: N, plane: N, n: N, lowest: N, dst: N): void;
  partMask(light: N, slopes: N, offsets: N, n: N, amount: N, dst: N): void;
  addLines(light: N, slopes: N, offsets: N, mask: N, n: N, ev: N): void;
  addMasked(plane: N, mask: N, n: N, factor: N, values: N): void;
  addRamp(mask: N, n: N, start: N, step: N, ev: N): void;
  addRadial(mask: N, n: N, value: N, x: N, step: N, y: N, inner: N, width: N, ev: N): void;
  steepen(light: N, mask: N, n: N, factor: N, pivot: N, ev: N): void;
  scaleMasked(mask: N, n: N, factor: N, values: N): void;
  mixDenoised(row: N, rowPlane: N, clean: N, cleanPlane: N, luminance: N, chroma: N, n: N): void;
  clearAir(row: N, plane: N, depth: N, strength: N, n: N, red: N, green: N, blue: N): void;
  applyGain(src: N, srcPlane: N, ev: N, n: N, s: N, dst: N, dstPlane: N): void;
  rollOff(row: N, plane: N, n: N, start: N, white: N): void;
  curveRow(row: N, plane: N, mask: N, n: N, all: N, red: N, green: N, blue: N): void;
  colourRow(row: N, plane: N, mask: N, rims: N, n: N, s: N, hues: N): void;
  stabilise(src: N, plane: N, n: N, perUnit: N, read2: N, dst: N, dstPlane: N): void;
  unstabilise(src: N, srcPlane: N, n: N, perUnit: N, read2: N, sigma: N, dst: N, plane: N): void;
  noiseRow(src: N, plane: N, weights: N, n: N, perUnit: N, read2: N, scale: N, dst: N): void;
  denoiseBlocks(
    src: N,
    pilot: N,
    plane: N,
    sigma: N,
    w: N,
    h: N,
    step: N,
    bound: N,
    chromaBound: N,
    sums: N,
    room: N,
  ): void;
  divideBlocks(sums: N, plane: N, n: N): void;
  blockPowers(src: N, stride: N, room: N, dst: N): void;
  convolveDown(src: N, w: N, h: N, taps: N, r: N, dst: N): void;
  convolveAcross(src: N, w: N, h: N, taps: N, r: N, line: N, dst: N): void;
  quotient(a: N, b: N, n: N, dst: N): void;
  multiplyBy(a: N, b: N, n: N): void;
  localRange(src: N, w: N, h: N, rows: N, least: N, most: N): void;
  holdOvershoot(values: N, least: N, most: N, n: N, over: N): void;
  heldDetail(near: N, far: N, variance: N, noise: N, n: N, edge: N, dst: N): void;
  varianceOf(mean: N, squares: N, n: N, dst: N): void;
  noiseEv(sigma: N, logLight: N, n: N, perUnit: N, read2: N, dst: N): void;
  sharpeningEv(ratio: N, variance: N, noise: N, n: N, wanted: N, dst: N): void;
  edgeShare(least: N, most: N, n: N, from: N, to: N): void;
  scaleWithin(values: N, n: N, factor: N, least: N, most: N): void;
}

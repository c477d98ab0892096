// Made by scripts/kernel-calls.mjs of the kernels' own declarations; not edited by hand.

/** Kernels that are called by place. Addresses are byte offsets into their memory. */
interface ByPlace {
  blend8(a: number, b: number, out: number, count: number, weight: number): void;
  blend16(a: number, b: number, out: number, count: number, weight: number): void;
  gathered(sums: number, count: number, size: number, out: number): void;
  checksum(data: number, count: number): number;
  shrink(plane: number, size: number, width: number, height: number, out: number): void;
  widen8(source: number, sourceStride: number, plane: number, stride: number, width: number, height: number): void;
  widen16(
    source: number,
    sourceStride: number,
    plane: number,
    stride: number,
    width: number,
    height: number,
    bits: number,
  ): void;
  halve(source: number, sourceStride: number, plane: number, stride: number, width: number, height: number): void;
  slopes(plane: number, stride: number, width: number, height: number, alongX: number, alongY: number): void;
  smoothAlike(from: number, to: number, width: number, height: number): void;
  agreement(
    field: number,
    trust: number,
    width: number,
    height: number,
    alongX: number,
    alongY: number,
    stride: number,
  ): number;
  likeness(
    alongX0: number,
    alongY0: number,
    alongX1: number,
    alongY1: number,
    stride: number,
    width: number,
    height: number,
  ): number;
  propagateTrusted(
    field: number,
    trust: number,
    plane: number,
    other: number,
    stride: number,
    width: number,
    height: number,
  ): void;
  bothEnds(field: number, own: number, far: number, width: number, height: number, ends: number): void;
  removeOutliers(
    vectors: number,
    weights: number,
    before: number,
    weightsBefore: number,
    width: number,
    height: number,
  ): void;
  fillHoles(vectors: number, weights: number, width: number, height: number): void;
  gatherTerms(terms: number, columns: number, rows: number, reach: number, between: number, out: number): void;
  exposureGain(): number;
  exposureOffset(): number;
  expose(plane: number, target: number, stride: number, width: number, height: number, by: number, plus: number): void;
  readRow(plane: number, size: number, width: number, row: number, offset: number, scale: number, out: number): void;
  toRgb(r: number, g: number, b: number, count: number, plan: number): void;
  fromRgb(r: number, g: number, b: number, count: number, plan: number): void;
  codesToLight(row: number, count: number, table: number): void;
  lightToCodes(row: number, count: number, table: number, clipped: number): void;
  mixPrimaries(r: number, g: number, b: number, count: number, plan: number): void;
  cellsOfLuma(
    plane: number,
    width: number,
    height: number,
    side: number,
    columns: number,
    rows: number,
    out: number,
  ): void;
  cellsOfMeans(means: number, count: number, out: number): void;
  halveCells(cells: number, columns: number, rows: number, out: number): void;
  countLevels(cells: number, count: number, out: number): void;
  cellsApart(a: number, b: number, count: number): number;
  cellsTotal(cells: number, count: number): number;
  blockSlopes(
    before: number,
    now: number,
    columns: number,
    rows: number,
    size: number,
    scratch: number,
    out: number,
  ): number;
  structureOf(
    cells: number,
    columns: number,
    rows: number,
    across: number,
    quarters: number,
    contrasts: number,
  ): number;
}

/** Kernels with more than 7 parameters, called by the names of these. */
interface ByName {
  yuv420ToRgba(
    input: Readonly<
      Record<'y' | 'u' | 'v' | 'out' | 'width' | 'height' | 'offsetY' | 'ky' | 'krv' | 'kgu' | 'kgv' | 'kbu', number>
    >,
  ): void;
  smear(
    input: Readonly<
      Record<
        | 'plane'
        | 'size'
        | 'width'
        | 'height'
        | 'field'
        | 'gridWidth'
        | 'gridHeight'
        | 'perX'
        | 'perY'
        | 'scaleX'
        | 'scaleY'
        | 'weight'
        | 'sums',
        number
      >
    >,
  ): void;
  shear(
    input: Readonly<
      Record<'plane' | 'size' | 'width' | 'height' | 'slope' | 'down' | 'out' | 'outSize' | 'places', number>
    >,
  ): void;
  streak(
    input: Readonly<Record<'plane' | 'size' | 'width' | 'height' | 'length' | 'down' | 'out' | 'sums', number>>,
  ): void;
  place(
    input: Readonly<
      Record<
        | 'plane'
        | 'size'
        | 'width'
        | 'height'
        | 'a'
        | 'b'
        | 'c'
        | 'd'
        | 'tx'
        | 'ty'
        | 'out'
        | 'outWidth'
        | 'outHeight'
        | 'black'
        | 'left'
        | 'right'
        | 'top'
        | 'bottom',
        number
      >
    >,
  ): void;
  searchPatches(
    input: Readonly<
      Record<
        | 'plane0'
        | 'plane1'
        | 'alongX'
        | 'alongY'
        | 'stride'
        | 'width'
        | 'height'
        | 'step'
        | 'columns'
        | 'rows'
        | 'found'
        | 'costs'
        | 'steps'
        | 'forward',
        number
      >
    >,
  ): void;
  searchAfar(
    input: Readonly<
      Record<
        | 'plane0'
        | 'plane1'
        | 'alongX'
        | 'alongY'
        | 'stride'
        | 'width'
        | 'height'
        | 'step'
        | 'columns'
        | 'rows'
        | 'found'
        | 'costs'
        | 'steps'
        | 'rangeX'
        | 'rangeY',
        number
      >
    >,
  ): void;
  scanPatches(
    input: Readonly<
      Record<
        | 'plane0'
        | 'plane1'
        | 'stride'
        | 'width'
        | 'height'
        | 'step'
        | 'columns'
        | 'rows'
        | 'found'
        | 'rangeX'
        | 'rangeY',
        number
      >
    >,
  ): void;
  spread(
    input: Readonly<
      Record<
        'plane0' | 'plane1' | 'stride' | 'width' | 'height' | 'step' | 'columns' | 'rows' | 'found' | 'field' | 'sums',
        number
      >
    >,
  ): void;
  inherit(
    input: Readonly<
      Record<
        'coarse' | 'coarseWidth' | 'coarseHeight' | 'width' | 'height' | 'step' | 'columns' | 'rows' | 'found',
        number
      >
    >,
  ): void;
  agree(
    input: Readonly<
      Record<'field' | 'back' | 'width' | 'height' | 'alongX' | 'alongY' | 'stride' | 'tolerance' | 'trust', number>
    >,
  ): void;
  accelerate(
    input: Readonly<
      Record<'field' | 'trust' | 'other' | 'otherTrust' | 'width' | 'height' | 'most' | 'own' | 'scratch', number>
    >,
  ): void;
  project(
    input: Readonly<
      Record<
        'field' | 'trust' | 'ends' | 'width' | 'height' | 'part' | 'kinked' | 'first' | 'vectors' | 'scores',
        number
      >
    >,
  ): void;
  solve(
    input: Readonly<
      Record<
        | 'plane0'
        | 'plane1'
        | 'stride'
        | 'width'
        | 'height'
        | 'fraction'
        | 'field0'
        | 'trust0'
        | 'field1'
        | 'trust1'
        | 'vectors0'
        | 'scores0'
        | 'vectors1'
        | 'scores1'
        | 'vectors'
        | 'weights',
        number
      >
    >,
  ): void;
  tune(
    input: Readonly<
      Record<
        | 'a'
        | 'b'
        | 'stride'
        | 'width'
        | 'height'
        | 'fraction'
        | 'scores0'
        | 'scores1'
        | 'trust'
        | 'keenness'
        | 'vectors'
        | 'weights'
        | 'before',
        number
      >
    >,
  ): void;
  blockTerms(
    input: Readonly<
      Record<
        | 'a'
        | 'b'
        | 'stride'
        | 'width'
        | 'height'
        | 'fraction'
        | 'vectors'
        | 'weights'
        | 'scores0'
        | 'scores1'
        | 'before'
        | 'after'
        | 'out',
        number
      >
    >,
  ): void;
  blendDoubted(
    input: Readonly<
      Record<
        | 'a'
        | 'b'
        | 'stride'
        | 'width'
        | 'height'
        | 'fraction'
        | 'shares'
        | 'columns'
        | 'rows'
        | 'perX'
        | 'perY'
        | 'out'
        | 'bits',
        number
      >
    >,
  ): void;
  synthesise(
    input: Readonly<
      Record<
        | 'a'
        | 'b'
        | 'stride'
        | 'width'
        | 'height'
        | 'vectors'
        | 'weights'
        | 'gridWidth'
        | 'gridHeight'
        | 'perX'
        | 'perY'
        | 'out'
        | 'bits',
        number
      >
    >,
  ): void;
  fitExposure(
    input: Readonly<
      Record<
        'plane0' | 'plane1' | 'stride' | 'width' | 'height' | 'step' | 'columns' | 'rows' | 'found' | 'means',
        number
      >
    >,
  ): void;
  errorTerms(
    input: Readonly<
      Record<
        | 'a'
        | 'b'
        | 'first'
        | 'second'
        | 'stride'
        | 'scale'
        | 'plane'
        | 'planeStride'
        | 'width'
        | 'height'
        | 'fraction'
        | 'vectors'
        | 'weights'
        | 'scores0'
        | 'scores1'
        | 'before'
        | 'after'
        | 'out',
        number
      >
    >,
  ): void;
  readChromaRow(
    input: Readonly<
      Record<
        | 'plane'
        | 'size'
        | 'width'
        | 'height'
        | 'fullWidth'
        | 'row'
        | 'shiftX'
        | 'shiftY'
        | 'siteX'
        | 'siteY'
        | 'offset'
        | 'scale'
        | 'out',
        number
      >
    >,
  ): void;
  gain(input: Readonly<Record<'r' | 'g' | 'b' | 'count' | 'wr' | 'wg' | 'wb' | 'table', number>>): void;
  writeRow(
    input: Readonly<Record<'row' | 'count' | 'plane' | 'size' | 'index' | 'offset' | 'scale' | 'top', number>>,
  ): void;
  writeChromaRow(
    input: Readonly<
      Record<
        | 'first'
        | 'second'
        | 'fullWidth'
        | 'shiftX'
        | 'left'
        | 'plane'
        | 'size'
        | 'width'
        | 'index'
        | 'offset'
        | 'scale'
        | 'top',
        number
      >
    >,
  ): void;
  unmatched(
    input: Readonly<
      Record<
        | 'a'
        | 'quartersA'
        | 'b'
        | 'quartersB'
        | 'contrastsB'
        | 'contrast'
        | 'columns'
        | 'rows'
        | 'offsets'
        | 'places'
        | 'enough',
        number
      >
    >,
  ): number;
}

/** The kernels as WebAssembly exports them. */
export type KernelExports = ByPlace & {
  readonly [K in keyof ByName]: (...values: number[]) => ReturnType<ByName[K]>;
};

/** The kernels as they are called. */
export type KernelCalls = ByPlace & ByName;

/** @param run the exports of an instance of `kernels.wasm` */
export const callsOf = (run: KernelExports): KernelCalls => ({
  ...run,
  yuv420ToRgba: (i) =>
    run.yuv420ToRgba(i.y, i.u, i.v, i.out, i.width, i.height, i.offsetY, i.ky, i.krv, i.kgu, i.kgv, i.kbu),
  smear: (i) =>
    run.smear(
      i.plane,
      i.size,
      i.width,
      i.height,
      i.field,
      i.gridWidth,
      i.gridHeight,
      i.perX,
      i.perY,
      i.scaleX,
      i.scaleY,
      i.weight,
      i.sums,
    ),
  shear: (i) => run.shear(i.plane, i.size, i.width, i.height, i.slope, i.down, i.out, i.outSize, i.places),
  streak: (i) => run.streak(i.plane, i.size, i.width, i.height, i.length, i.down, i.out, i.sums),
  place: (i) =>
    run.place(
      i.plane,
      i.size,
      i.width,
      i.height,
      i.a,
      i.b,
      i.c,
      i.d,
      i.tx,
      i.ty,
      i.out,
      i.outWidth,
      i.outHeight,
      i.black,
      i.left,
      i.right,
      i.top,
      i.bottom,
    ),
  searchPatches: (i) =>
    run.searchPatches(
      i.plane0,
      i.plane1,
      i.alongX,
      i.alongY,
      i.stride,
      i.width,
      i.height,
      i.step,
      i.columns,
      i.rows,
      i.found,
      i.costs,
      i.steps,
      i.forward,
    ),
  searchAfar: (i) =>
    run.searchAfar(
      i.plane0,
      i.plane1,
      i.alongX,
      i.alongY,
      i.stride,
      i.width,
      i.height,
      i.step,
      i.columns,
      i.rows,
      i.found,
      i.costs,
      i.steps,
      i.rangeX,
      i.rangeY,
    ),
  scanPatches: (i) =>
    run.scanPatches(
      i.plane0,
      i.plane1,
      i.stride,
      i.width,
      i.height,
      i.step,
      i.columns,
      i.rows,
      i.found,
      i.rangeX,
      i.rangeY,
    ),
  spread: (i) =>
    run.spread(i.plane0, i.plane1, i.stride, i.width, i.height, i.step, i.columns, i.rows, i.found, i.field, i.sums),
  inherit: (i) =>
    run.inherit(i.coarse, i.coarseWidth, i.coarseHeight, i.width, i.height, i.step, i.columns, i.rows, i.found),
  agree: (i) => run.agree(i.field, i.back, i.width, i.height, i.alongX, i.alongY, i.stride, i.tolerance, i.trust),
  accelerate: (i) =>
    run.accelerate(i.field, i.trust, i.other, i.otherTrust, i.width, i.height, i.most, i.own, i.scratch),
  project: (i) =>
    run.project(i.field, i.trust, i.ends, i.width, i.height, i.part, i.kinked, i.first, i.vectors, i.scores),
  solve: (i) =>
    run.solve(
      i.plane0,
      i.plane1,
      i.stride,
      i.width,
      i.height,
      i.fraction,
      i.field0,
      i.trust0,
      i.field1,
      i.trust1,
      i.vectors0,
      i.scores0,
      i.vectors1,
      i.scores1,
      i.vectors,
      i.weights,
    ),
  tune: (i) =>
    run.tune(
      i.a,
      i.b,
      i.stride,
      i.width,
      i.height,
      i.fraction,
      i.scores0,
      i.scores1,
      i.trust,
      i.keenness,
      i.vectors,
      i.weights,
      i.before,
    ),
  blockTerms: (i) =>
    run.blockTerms(
      i.a,
      i.b,
      i.stride,
      i.width,
      i.height,
      i.fraction,
      i.vectors,
      i.weights,
      i.scores0,
      i.scores1,
      i.before,
      i.after,
      i.out,
    ),
  blendDoubted: (i) =>
    run.blendDoubted(
      i.a,
      i.b,
      i.stride,
      i.width,
      i.height,
      i.fraction,
      i.shares,
      i.columns,
      i.rows,
      i.perX,
      i.perY,
      i.out,
      i.bits,
    ),
  synthesise: (i) =>
    run.synthesise(
      i.a,
      i.b,
      i.stride,
      i.width,
      i.height,
      i.vectors,
      i.weights,
      i.gridWidth,
      i.gridHeight,
      i.perX,
      i.perY,
      i.out,
      i.bits,
    ),
  fitExposure: (i) =>
    run.fitExposure(i.plane0, i.plane1, i.stride, i.width, i.height, i.step, i.columns, i.rows, i.found, i.means),
  errorTerms: (i) =>
    run.errorTerms(
      i.a,
      i.b,
      i.first,
      i.second,
      i.stride,
      i.scale,
      i.plane,
      i.planeStride,
      i.width,
      i.height,
      i.fraction,
      i.vectors,
      i.weights,
      i.scores0,
      i.scores1,
      i.before,
      i.after,
      i.out,
    ),
  readChromaRow: (i) =>
    run.readChromaRow(
      i.plane,
      i.size,
      i.width,
      i.height,
      i.fullWidth,
      i.row,
      i.shiftX,
      i.shiftY,
      i.siteX,
      i.siteY,
      i.offset,
      i.scale,
      i.out,
    ),
  gain: (i) => run.gain(i.r, i.g, i.b, i.count, i.wr, i.wg, i.wb, i.table),
  writeRow: (i) => run.writeRow(i.row, i.count, i.plane, i.size, i.index, i.offset, i.scale, i.top),
  writeChromaRow: (i) =>
    run.writeChromaRow(
      i.first,
      i.second,
      i.fullWidth,
      i.shiftX,
      i.left,
      i.plane,
      i.size,
      i.width,
      i.index,
      i.offset,
      i.scale,
      i.top,
    ),
  unmatched: (i) =>
    run.unmatched(
      i.a,
      i.quartersA,
      i.b,
      i.quartersB,
      i.contrastsB,
      i.contrast,
      i.columns,
      i.rows,
      i.offsets,
      i.places,
      i.enough,
    ),
});

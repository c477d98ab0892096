// Made by scripts/kernel-calls.mjs of the kernels' own declarations; not edited by hand.

/** The kernels as WebAssembly exports them. Addresses are byte offsets into their memory. */
export interface KernelExports {
  blend8(a: number, b: number, out: number, count: number, weight: number): void;
  blend16(a: number, b: number, out: number, count: number, weight: number): void;
  yuv420ToRgba(
    y: number,
    u: number,
    v: number,
    out: number,
    width: number,
    height: number,
    offsetY: number,
    ky: number,
    krv: number,
    kgu: number,
    kgv: number,
    kbu: number,
  ): void;
  smear(
    plane: number,
    size: number,
    width: number,
    height: number,
    field: number,
    gridWidth: number,
    gridHeight: number,
    perX: number,
    perY: number,
    scaleX: number,
    scaleY: number,
    weight: number,
    sums: number,
  ): void;
  gathered(sums: number, count: number, size: number, out: number): void;
  place(
    plane: number,
    size: number,
    width: number,
    height: number,
    a: number,
    b: number,
    c: number,
    d: number,
    tx: number,
    ty: number,
    out: number,
    outWidth: number,
    outHeight: number,
    black: number,
  ): void;
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
  searchPatches(
    plane0: number,
    plane1: number,
    alongX: number,
    alongY: number,
    stride: number,
    width: number,
    height: number,
    step: number,
    columns: number,
    rows: number,
    found: number,
    costs: number,
    steps: number,
    forward: number,
  ): void;
  searchAfar(
    plane0: number,
    plane1: number,
    alongX: number,
    alongY: number,
    stride: number,
    width: number,
    height: number,
    step: number,
    columns: number,
    rows: number,
    found: number,
    costs: number,
    steps: number,
    rangeX: number,
    rangeY: number,
  ): void;
  scanPatches(
    plane0: number,
    plane1: number,
    stride: number,
    width: number,
    height: number,
    step: number,
    columns: number,
    rows: number,
    found: number,
    rangeX: number,
    rangeY: number,
  ): void;
  spread(
    plane0: number,
    plane1: number,
    stride: number,
    width: number,
    height: number,
    step: number,
    columns: number,
    rows: number,
    found: number,
    field: number,
    sums: number,
  ): void;
  inherit(
    coarse: number,
    coarseWidth: number,
    coarseHeight: number,
    width: number,
    height: number,
    step: number,
    columns: number,
    rows: number,
    found: number,
  ): void;
  smoothAlike(from: number, to: number, width: number, height: number): void;
  agree(
    field: number,
    back: number,
    width: number,
    height: number,
    alongX: number,
    alongY: number,
    stride: number,
    tolerance: number,
    trust: number,
  ): void;
  agreement(
    field: number,
    trust: number,
    width: number,
    height: number,
    alongX: number,
    alongY: number,
    stride: number,
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
  accelerate(
    field: number,
    trust: number,
    other: number,
    otherTrust: number,
    width: number,
    height: number,
    own: number,
    scratch: number,
  ): void;
  bothEnds(field: number, own: number, far: number, width: number, height: number, ends: number): void;
  project(
    field: number,
    trust: number,
    ends: number,
    width: number,
    height: number,
    part: number,
    first: number,
    vectors: number,
    scores: number,
  ): void;
  solve(
    plane0: number,
    plane1: number,
    stride: number,
    width: number,
    height: number,
    fraction: number,
    field0: number,
    trust0: number,
    field1: number,
    trust1: number,
    vectors0: number,
    scores0: number,
    vectors1: number,
    scores1: number,
    vectors: number,
    weights: number,
  ): void;
  removeOutliers(
    vectors: number,
    weights: number,
    before: number,
    weightsBefore: number,
    width: number,
    height: number,
  ): void;
  fillHoles(vectors: number, weights: number, width: number, height: number): void;
  tune(
    a: number,
    b: number,
    stride: number,
    width: number,
    height: number,
    fraction: number,
    scores0: number,
    scores1: number,
    trust: number,
    keenness: number,
    vectors: number,
    weights: number,
    before: number,
  ): void;
  synthesise(
    a: number,
    b: number,
    stride: number,
    width: number,
    height: number,
    vectors: number,
    weights: number,
    gridWidth: number,
    gridHeight: number,
    perX: number,
    perY: number,
    out: number,
    bits: number,
  ): void;
  fitExposure(
    plane0: number,
    plane1: number,
    stride: number,
    width: number,
    height: number,
    step: number,
    columns: number,
    rows: number,
    found: number,
    means: number,
  ): void;
  exposureGain(): number;
  exposureOffset(): number;
  expose(plane: number, target: number, stride: number, width: number, height: number, by: number, plus: number): void;
  errorTerms(
    a: number,
    b: number,
    first: number,
    second: number,
    stride: number,
    scale: number,
    plane: number,
    planeStride: number,
    width: number,
    height: number,
    fraction: number,
    vectors: number,
    weights: number,
    scores0: number,
    scores1: number,
    before: number,
    after: number,
    out: number,
  ): void;
  readRow(plane: number, size: number, width: number, row: number, offset: number, scale: number, out: number): void;
  readChromaRow(
    plane: number,
    size: number,
    width: number,
    height: number,
    fullWidth: number,
    row: number,
    shiftX: number,
    shiftY: number,
    siteX: number,
    siteY: number,
    offset: number,
    scale: number,
    out: number,
  ): void;
  toRgb(r: number, g: number, b: number, count: number, plan: number): void;
  fromRgb(r: number, g: number, b: number, count: number, plan: number): void;
  codesToLight(row: number, count: number, table: number): void;
  lightToCodes(row: number, count: number, table: number, clipped: number): void;
  gain(r: number, g: number, b: number, count: number, wr: number, wg: number, wb: number, table: number): void;
  mixPrimaries(r: number, g: number, b: number, count: number, plan: number): void;
  writeRow(
    row: number,
    count: number,
    plane: number,
    size: number,
    index: number,
    offset: number,
    scale: number,
    top: number,
  ): void;
  writeChromaRow(
    first: number,
    second: number,
    fullWidth: number,
    shiftX: number,
    left: number,
    plane: number,
    size: number,
    width: number,
    index: number,
    offset: number,
    scale: number,
    top: number,
  ): void;
}

/** Of `yuv420ToRgba`, assembly/colour.ts. */
interface Yuv420ToRgbaInput {
  readonly y: number;
  readonly u: number;
  readonly v: number;
  readonly out: number;
  readonly width: number;
  readonly height: number;
  readonly offsetY: number;
  readonly ky: number;
  readonly krv: number;
  readonly kgu: number;
  readonly kgv: number;
  readonly kbu: number;
}

/** Of `smear`, assembly/smear.ts. */
interface SmearInput {
  readonly plane: number;
  readonly size: number;
  readonly width: number;
  readonly height: number;
  readonly field: number;
  readonly gridWidth: number;
  readonly gridHeight: number;
  readonly perX: number;
  readonly perY: number;
  readonly scaleX: number;
  readonly scaleY: number;
  readonly weight: number;
  readonly sums: number;
}

/** Of `place`, assembly/place.ts. */
interface PlaceInput {
  readonly plane: number;
  readonly size: number;
  readonly width: number;
  readonly height: number;
  readonly a: number;
  readonly b: number;
  readonly c: number;
  readonly d: number;
  readonly tx: number;
  readonly ty: number;
  readonly out: number;
  readonly outWidth: number;
  readonly outHeight: number;
  readonly black: number;
}

/** Of `searchPatches`, assembly/flow/inverse-search.ts. */
interface SearchPatchesInput {
  readonly plane0: number;
  readonly plane1: number;
  readonly alongX: number;
  readonly alongY: number;
  readonly stride: number;
  readonly width: number;
  readonly height: number;
  readonly step: number;
  readonly columns: number;
  readonly rows: number;
  readonly found: number;
  readonly costs: number;
  readonly steps: number;
  readonly forward: number;
}

/** Of `searchAfar`, assembly/flow/inverse-search.ts. */
interface SearchAfarInput {
  readonly plane0: number;
  readonly plane1: number;
  readonly alongX: number;
  readonly alongY: number;
  readonly stride: number;
  readonly width: number;
  readonly height: number;
  readonly step: number;
  readonly columns: number;
  readonly rows: number;
  readonly found: number;
  readonly costs: number;
  readonly steps: number;
  readonly rangeX: number;
  readonly rangeY: number;
}

/** Of `scanPatches`, assembly/flow/inverse-search.ts. */
interface ScanPatchesInput {
  readonly plane0: number;
  readonly plane1: number;
  readonly stride: number;
  readonly width: number;
  readonly height: number;
  readonly step: number;
  readonly columns: number;
  readonly rows: number;
  readonly found: number;
  readonly rangeX: number;
  readonly rangeY: number;
}

/** Of `spread`, assembly/flow/spread.ts. */
interface SpreadInput {
  readonly plane0: number;
  readonly plane1: number;
  readonly stride: number;
  readonly width: number;
  readonly height: number;
  readonly step: number;
  readonly columns: number;
  readonly rows: number;
  readonly found: number;
  readonly field: number;
  readonly sums: number;
}

/** Of `inherit`, assembly/flow/spread.ts. */
interface InheritInput {
  readonly coarse: number;
  readonly coarseWidth: number;
  readonly coarseHeight: number;
  readonly width: number;
  readonly height: number;
  readonly step: number;
  readonly columns: number;
  readonly rows: number;
  readonly found: number;
}

/** Of `agree`, assembly/flow/trust.ts. */
interface AgreeInput {
  readonly field: number;
  readonly back: number;
  readonly width: number;
  readonly height: number;
  readonly alongX: number;
  readonly alongY: number;
  readonly stride: number;
  readonly tolerance: number;
  readonly trust: number;
}

/** Of `accelerate`, assembly/flow/accelerate.ts. */
interface AccelerateInput {
  readonly field: number;
  readonly trust: number;
  readonly other: number;
  readonly otherTrust: number;
  readonly width: number;
  readonly height: number;
  readonly own: number;
  readonly scratch: number;
}

/** Of `project`, assembly/flow/project.ts. */
interface ProjectInput {
  readonly field: number;
  readonly trust: number;
  readonly ends: number;
  readonly width: number;
  readonly height: number;
  readonly part: number;
  readonly first: number;
  readonly vectors: number;
  readonly scores: number;
}

/** Of `solve`, assembly/flow/solve.ts. */
interface SolveInput {
  readonly plane0: number;
  readonly plane1: number;
  readonly stride: number;
  readonly width: number;
  readonly height: number;
  readonly fraction: number;
  readonly field0: number;
  readonly trust0: number;
  readonly field1: number;
  readonly trust1: number;
  readonly vectors0: number;
  readonly scores0: number;
  readonly vectors1: number;
  readonly scores1: number;
  readonly vectors: number;
  readonly weights: number;
}

/** Of `tune`, assembly/flow/tuning.ts. */
interface TuneInput {
  readonly a: number;
  readonly b: number;
  readonly stride: number;
  readonly width: number;
  readonly height: number;
  readonly fraction: number;
  readonly scores0: number;
  readonly scores1: number;
  readonly trust: number;
  readonly keenness: number;
  readonly vectors: number;
  readonly weights: number;
  readonly before: number;
}

/** Of `synthesise`, assembly/flow/synthesise.ts. */
interface SynthesiseInput {
  readonly a: number;
  readonly b: number;
  readonly stride: number;
  readonly width: number;
  readonly height: number;
  readonly vectors: number;
  readonly weights: number;
  readonly gridWidth: number;
  readonly gridHeight: number;
  readonly perX: number;
  readonly perY: number;
  readonly out: number;
  readonly bits: number;
}

/** Of `fitExposure`, assembly/flow/exposure.ts. */
interface FitExposureInput {
  readonly plane0: number;
  readonly plane1: number;
  readonly stride: number;
  readonly width: number;
  readonly height: number;
  readonly step: number;
  readonly columns: number;
  readonly rows: number;
  readonly found: number;
  readonly means: number;
}

/** Of `errorTerms`, assembly/flow/error-terms.ts. */
interface ErrorTermsInput {
  readonly a: number;
  readonly b: number;
  readonly first: number;
  readonly second: number;
  readonly stride: number;
  readonly scale: number;
  readonly plane: number;
  readonly planeStride: number;
  readonly width: number;
  readonly height: number;
  readonly fraction: number;
  readonly vectors: number;
  readonly weights: number;
  readonly scores0: number;
  readonly scores1: number;
  readonly before: number;
  readonly after: number;
  readonly out: number;
}

/** Of `readChromaRow`, assembly/convert.ts. */
interface ReadChromaRowInput {
  readonly plane: number;
  readonly size: number;
  readonly width: number;
  readonly height: number;
  readonly fullWidth: number;
  readonly row: number;
  readonly shiftX: number;
  readonly shiftY: number;
  readonly siteX: number;
  readonly siteY: number;
  readonly offset: number;
  readonly scale: number;
  readonly out: number;
}

/** Of `gain`, assembly/convert.ts. */
interface GainInput {
  readonly r: number;
  readonly g: number;
  readonly b: number;
  readonly count: number;
  readonly wr: number;
  readonly wg: number;
  readonly wb: number;
  readonly table: number;
}

/** Of `writeRow`, assembly/convert.ts. */
interface WriteRowInput {
  readonly row: number;
  readonly count: number;
  readonly plane: number;
  readonly size: number;
  readonly index: number;
  readonly offset: number;
  readonly scale: number;
  readonly top: number;
}

/** Of `writeChromaRow`, assembly/convert.ts. */
interface WriteChromaRowInput {
  readonly first: number;
  readonly second: number;
  readonly fullWidth: number;
  readonly shiftX: number;
  readonly left: number;
  readonly plane: number;
  readonly size: number;
  readonly width: number;
  readonly index: number;
  readonly offset: number;
  readonly scale: number;
  readonly top: number;
}

type ByName =
  | 'yuv420ToRgba'
  | 'smear'
  | 'place'
  | 'searchPatches'
  | 'searchAfar'
  | 'scanPatches'
  | 'spread'
  | 'inherit'
  | 'agree'
  | 'accelerate'
  | 'project'
  | 'solve'
  | 'tune'
  | 'synthesise'
  | 'fitExposure'
  | 'errorTerms'
  | 'readChromaRow'
  | 'gain'
  | 'writeRow'
  | 'writeChromaRow';

/** The kernels as they are called: those with more than 7 parameters by the names of these. */
export interface KernelCalls extends Omit<KernelExports, ByName> {
  yuv420ToRgba(input: Yuv420ToRgbaInput): void;
  smear(input: SmearInput): void;
  place(input: PlaceInput): void;
  searchPatches(input: SearchPatchesInput): void;
  searchAfar(input: SearchAfarInput): void;
  scanPatches(input: ScanPatchesInput): void;
  spread(input: SpreadInput): void;
  inherit(input: InheritInput): void;
  agree(input: AgreeInput): void;
  accelerate(input: AccelerateInput): void;
  project(input: ProjectInput): void;
  solve(input: SolveInput): void;
  tune(input: TuneInput): void;
  synthesise(input: SynthesiseInput): void;
  fitExposure(input: FitExposureInput): void;
  errorTerms(input: ErrorTermsInput): void;
  readChromaRow(input: ReadChromaRowInput): void;
  gain(input: GainInput): void;
  writeRow(input: WriteRowInput): void;
  writeChromaRow(input: WriteChromaRowInput): void;
}

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
  accelerate: (i) => run.accelerate(i.field, i.trust, i.other, i.otherTrust, i.width, i.height, i.own, i.scratch),
  project: (i) => run.project(i.field, i.trust, i.ends, i.width, i.height, i.part, i.first, i.vectors, i.scores),
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
});

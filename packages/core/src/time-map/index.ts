export { constantClip, type ConstantClip, constantMap, constantPosition, fittedClip } from './constant-speed.js';
export { type BezierEase, type Ease, easeCurve } from './ease.js';
export {
  addVertex,
  MAX_SPEED,
  fitDuration,
  type Keep,
  mirrorEase,
  moveVertex,
  slideVertex,
  removeVertex,
  reverseMap,
  setBend,
  setClipSpeed,
  setReachBends,
  setReachSpeed,
  MIN_SPEED,
  type VertexDrag,
} from './edit.js';
export { pieces, positionAt, positionsInto, slopeAt, speedAt } from './evaluate.js';
export { freezeAt } from './freeze.js';
export { appearances, framesShowing } from './inverse.js';
export { ladder } from './ladder.js';
export { formatMapFile, type MapFile, parseMapFile } from './map-file.js';
export { bounceRange, fitRange, returnRange, scaleRangeSpeed, setRangeSpeed, turnRange } from './range.js';
export { speedRange } from './speed-range.js';
export {
  type Bend,
  bendWindow,
  HARD,
  mapDuration,
  mapFrameCount,
  reachSlope,
  straightMap,
  type TimeMap,
  widthAsked,
} from './time-map.js';
export { isTurn, reachTurn, turnsAt } from './turn.js';

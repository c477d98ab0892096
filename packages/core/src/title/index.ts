export type { Coverage } from './rasterize.js';
export { missingLetters, SAFE_SHARE, setLine, type SetWord, type TitleSetting } from './set-line.js';

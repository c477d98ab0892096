export { type PieceLayout, PROXY_GROUP, piecesOf } from './pieces.js';

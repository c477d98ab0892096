export { type PieceLayout, PROXY_GROUP, piecesOf } from './pieces.js';
export { linesOf, PROXY_LINES, type ProxyLines, proxySize, USUAL_LINES } from './size.js';

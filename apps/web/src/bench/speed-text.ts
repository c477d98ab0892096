import { InvalidInput } from '@idle-bend/core';

/** A speed as people write it: 40 %, 2.5 %, −100 %. */
export function percentText(speed: number): string {
  const percent = Math.round(speed * 1e4) / 100;
  return `${percent < 0 ? '−' : ''}${Math.abs(percent) >= 100 ? Math.round(Math.abs(percent) * 10) / 10 : Math.abs(percent)} %`;
}

/** Reads a typed speed as a ratio: `40`, `40 %`, `-100%` or a factor such as `0.4x`. Throws `InvalidInput`. */
export function parseSpeed(text: string): number {
  const match = /^\s*([+\-−]?\d+(?:[.,]\d+)?)\s*(%|x|×)?\s*$/.exec(text);
  if (!match) throw new InvalidInput('speed', `"${text}" is not a speed; type 40, 40 % or 0.4x`);
  const value = Number(match[1]!.replace('−', '-').replace(',', '.'));
  return match[2] === 'x' || match[2] === '×' ? value : value / 100;
}

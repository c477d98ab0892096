import { boolean, finite, object, oneOf } from '../foundation/readers.js';
import { FLOW_LEVELS } from '../model/interpolation.js';
import type { RenderCost } from './cost.js';
import { RENDER_FORMAT_NAMES } from './format.js';
import {
  DEFAULT_SETTINGS,
  RENDER_DEPTHS,
  RENDER_QUALITIES,
  RENDER_RANGES,
  RENDER_TIMECODES,
  type RenderSettings,
} from './settings.js';

/** Reads the settings of a render; one that was kept before a setting was there has its default. Throws `InvalidInput` naming the field. */
export function readRenderSettings(value: unknown, field: string): RenderSettings {
  const settings = { ...DEFAULT_SETTINGS, ...object(value, field) };
  const depth = RENDER_DEPTHS.find((one) => one === settings.depth);
  return {
    format: oneOf(settings.format, RENDER_FORMAT_NAMES, `${field}.format`),
    quality: oneOf(settings.quality, RENDER_QUALITIES, `${field}.quality`),
    depth: depth ?? oneOf(settings.depth, ['source'] as const, `${field}.depth`),
    range: oneOf(settings.range, RENDER_RANGES, `${field}.range`),
    level: oneOf(settings.level, FLOW_LEVELS, `${field}.level`),
    timecode: oneOf(settings.timecode, RENDER_TIMECODES, `${field}.timecode`),
    chapters: boolean(settings.chapters, `${field}.chapters`),
  };
}

/** Reads what a render asked of a machine. Throws `InvalidInput` naming the field. */
export function readRenderCost(value: unknown, field: string): RenderCost {
  const cost = object(value, field);
  const number = (name: string) => finite(cost[name], `${field}.${name}`);
  return {
    frames: number('frames'),
    made: number('made'),
    blended: number('blended'),
    pictures: number('pictures'),
    pixels: number('pixels'),
  };
}

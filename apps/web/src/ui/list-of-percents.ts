import { percentFigure } from '@idle-bend/core/time';

const LIST = new Intl.ListFormat('en-GB');

/** Speeds as a sentence lists them: "20, 40 and 60 %". */
export const listOfPercents = (speeds: readonly number[]): string => `${LIST.format(speeds.map(percentFigure))} %`;

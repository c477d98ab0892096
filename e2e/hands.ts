import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Locator, Page } from '@playwright/test';
import { drag } from './fixtures.js';

/** Where the chart's clip begins and what is right of its end, pixels; and a height at which nothing but the chart lies. */
const CHART = { left: 104, right: 14, y: 40 };

/**
 * An editor's hands, which count what they do: a gesture is a key (with whatever is held), something typed and confirmed, a press, or a
 * drag. Looking and waiting are free.
 */
export class Hands {
  gestures = 0;

  constructor(private readonly page: Page) {}

  async key(key: string): Promise<void> {
    this.gestures++;
    await this.page.keyboard.press(key);
  }

  /** Typed where the keys go now, and confirmed. */
  async write(text: string): Promise<void> {
    this.gestures++;
    await this.page.keyboard.type(text);
    await this.page.keyboard.press('Enter');
  }

  async press(target: Locator, options: Parameters<Locator['click']>[0] = {}): Promise<void> {
    this.gestures++;
    await target.click(options);
  }

  button(name: string | RegExp, exact = true): Promise<void> {
    return this.press(this.page.getByRole('button', { name, ...(typeof name === 'string' && { exact }) }).first());
  }

  tab(name: string): Promise<void> {
    return this.press(this.page.getByRole('tab', { name }));
  }

  radio(group: string, name: string): Promise<void> {
    return this.press(this.page.getByLabel(group, { exact: true }).getByRole('radio', { name, exact: true }));
  }

  async type(field: string, text: string): Promise<void> {
    this.gestures++;
    const target = this.page.getByLabel(field, { exact: true });
    await target.fill(text);
    await target.press('Enter');
  }

  /** A list is opened, and one of it chosen. */
  async choose(list: string, option: string | RegExp): Promise<void> {
    await this.press(this.page.getByRole('combobox', { name: list, exact: true }));
    await this.press(this.page.getByRole('option', { name: option, exact: true }).first());
  }

  async drag(target: Locator, dx: number, dy: number, key?: 'Shift' | 'Alt'): Promise<void> {
    this.gestures++;
    await drag(this.page, target, dx, dy, key);
  }

  /** Presses the chart at a frame of a clip of so many: the playhead goes there. */
  async goTo(frame: number, frames: number): Promise<void> {
    await this.press(this.chart(), { position: { x: await this.x(frame, frames), y: CHART.y } });
  }

  /** Drags over the chart with Shift, from frame to frame. */
  async pick(from: number, to: number, frames: number): Promise<void> {
    this.gestures++;
    const { x, y } = (await this.chart().boundingBox())!;
    await this.page.mouse.move(x + (await this.x(from, frames)), y + CHART.y);
    await this.page.keyboard.down('Shift');
    await this.page.mouse.down();
    await this.page.mouse.move(x + (await this.x(to, frames)), y + CHART.y, { steps: 5 });
    await this.page.mouse.up();
    await this.page.keyboard.up('Shift');
  }

  /** From the list of actions, by some of its words. */
  async action(words: string): Promise<void> {
    await this.key('/');
    this.gestures++;
    await this.page.getByPlaceholder('What do you want to do?').fill(words);
    await this.page.keyboard.press('Enter');
  }

  private chart(): Locator {
    return this.page.getByRole('group', { name: /^Chart/ });
  }

  private async x(frame: number, frames: number): Promise<number> {
    const { width } = (await this.chart().boundingBox())!;
    return CHART.left + ((width - CHART.left - CHART.right) * frame) / frames;
  }
}

/** The gestures `docs/jobs.md` says a job takes. */
export function gesturesOf(job: string): number {
  const rows = readFileSync(join(process.cwd(), 'docs/jobs.md'), 'utf8').matchAll(/^\| (.+?) +\| +(\d+) +\|/gm);
  const found = [...rows].find(([, name]) => name === job);
  if (!found) throw new Error(`docs/jobs.md has no job "${job}"`);
  return Number(found[2]);
}

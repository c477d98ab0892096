// npm run screenshots: the pictures of docs/screenshots, from a fresh server with the demo project.
import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';

const data = mkdtempSync(join(tmpdir(), 'idle-bend-screenshots-'));
const out = 'docs/screenshots';
mkdirSync(out, { recursive: true });
const args = ['--demo', '--port', '0', '--data', data, '--media', 'demo/footage'];
const server = spawn(process.execPath, ['apps/server/dist/main.js', ...args], {
  stdio: ['ignore', 'pipe', 'inherit'],
});
const url = await new Promise((resolve) =>
  server.stdout.on('data', (d) => /http:\S+:\d+/.test(d) && resolve(/http:\S+:\d+/.exec(d)[0])),
);
const ready = async () =>
  (await (await fetch(`${url}/api/projects/marble-parade/footage`)).json()).every(
    (f) => f.status === 'ready' && f.sound !== 'waiting' && (!f.facts.picture || f.motion === 'ready'),
  );
while (!(await ready())) await new Promise((resolve) => setTimeout(resolve, 500));

const browser = await chromium.launch({
  executablePath: process.env.IDLE_BEND_CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-background-networking',
    '--no-first-run',
    '--disable-component-update',
    '--disable-sync',
  ],
});
const open = async (path, theme = 'day') => {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, locale: 'en-GB' });
  await page.addInitScript((value) => {
    localStorage.setItem('theme', value);
    localStorage.setItem('first-steps', 'seen');
  }, theme);
  await page.goto(url + path);
  if (path.endsWith('/bench')) await page.getByRole('group', { name: 'Reel' }).waitFor();
  await page.waitForTimeout(1500);
  return page;
};
const shoot = (page, name) => page.screenshot({ path: `${out}/${name}.png` });
async function choose(page, label, option) {
  await page.getByRole('combobox', { name: label, exact: true }).click();
  await page.getByRole('option', { name: option, exact: true }).click();
}

const toFrame = async (page, k) => {
  for (let i = 0; i < Math.floor(k / 10); i++) await page.keyboard.press('Shift+ArrowRight');
  for (let i = 0; i < k % 10; i++) await page.keyboard.press('ArrowRight');
  await page.waitForTimeout(600);
};

const bench = await open('/projects/marble-parade/bench');
await bench.getByRole('group', { name: 'Reel' }).getByText('−6 f').click();
await bench.getByRole('button', { name: 'Go there' }).click();
await bench.waitForTimeout(600);
await shoot(bench, 'drift');
await bench.keyboard.press('t');
await bench.getByRole('button', { name: 'Go there' }).click();
await bench.waitForTimeout(600);
await shoot(bench, 'bench');
await bench.getByRole('button', { name: /^Bend 2/ }).click();
await bench.getByRole('button', { name: 'Own' }).click();
await bench.waitForTimeout(300);
await shoot(bench, 'bend');
const compare = await open('/projects/marble-parade/bench');
await toFrame(compare, 62);
await compare.keyboard.press('v');
await compare.getByRole('tab', { name: 'Compare' }).click();
await choose(compare, 'Compare with', 'plain, 100 %');
await compare.waitForTimeout(5000);
await shoot(compare, 'compare');
const between = await open('/projects/marble-parade/bench');
await between.keyboard.press('PageDown');
await between.keyboard.press('PageDown');
await between.getByLabel('Speed over all').fill('10');
await between.keyboard.press('Enter');
await between.getByRole('tab', { name: 'Frames' }).click();
await between.getByRole('radio', { name: 'Flow' }).click();
await between.getByText('No rough spots').waitFor();
await between.getByRole('radio', { name: 'Arrows' }).click();
await between.getByRole('group', { name: /^Chart/ }).click({ position: { x: 446, y: 100 } });
// A made frame: real ones have no motion to show.
await between.keyboard.press('ArrowRight');
await between.waitForTimeout(3000);
await shoot(between, 'between');
await between.keyboard.press('Control+z');
await between.keyboard.press('Control+z');
await between.waitForTimeout(800);
const many = await open('/projects/marble-parade/bench');
await many.keyboard.press('Control+a');
await many.getByRole('button', { name: 'Surge' }).hover();
await shoot(many, 'many');
const music = await open('/projects/marble-parade/bench');
await music.keyboard.press('e');
await music.getByRole('button', { name: /^Lay these/ }).click();
await music.keyboard.press('/');
await music.keyboard.type('All landings');
await music.keyboard.press('Enter');
await music.waitForTimeout(800);
await shoot(music, 'music');
await music.keyboard.press('Control+z');
await music.waitForTimeout(800);
const group = await open('/projects/marble-parade/bench');
await group.getByTestId('move-clip-dominoes').click({ position: { x: 30, y: 8 } });
await group.keyboard.press('Shift+PageDown');
await group.keyboard.press('Control+b');
await group.getByRole('tab', { name: 'Shapes' }).click();
await group.getByRole('button', { name: /Surge/ }).first().click();
await toFrame(group, 90);
await group.waitForTimeout(800);
await shoot(group, 'group');
await group.keyboard.press('Control+z');
await group.keyboard.press('Control+z');
await group.waitForTimeout(800);
const framing = await open('/projects/marble-parade/bench');
await framing.getByRole('button', { name: /24 fps/ }).click();
await framing.getByRole('button', { name: 'Square 1:1' }).click();
await framing.getByRole('button', { name: 'Close', exact: true }).click();
await toFrame(framing, 64);
await framing.getByRole('tab', { name: 'Picture' }).click();
await framing.getByRole('radio', { name: 'Fill' }).click();
await framing.getByLabel('Across', { exact: true }).fill('-12 %');
await framing.keyboard.press('Enter');
await framing.waitForTimeout(800);
await shoot(framing, 'framing');
for (let i = 0; i < 3; i++) await framing.keyboard.press('Control+z');
await framing.waitForTimeout(800);
const ramp = await open('/projects/marble-parade/bench');
for (let i = 0; i < 3; i++) await ramp.keyboard.press('PageDown');
await ramp.waitForTimeout(600);
await ramp.keyboard.press('Shift+J');
await ramp.getByRole('radio', { name: 'by motion' }).click();
await ramp.getByText(/blurred over/).waitFor();
await ramp.waitForTimeout(6000);
await ramp.getByRole('heading', { name: 'Ramp join' }).scrollIntoViewIfNeeded();
await shoot(ramp, 'ramp');
await ramp.keyboard.press('Control+z');
await ramp.keyboard.press('Control+z');
await ramp.waitForTimeout(800);
const accents = await open('/projects/marble-parade/bench');
await accents.keyboard.press('Shift+A');
await accents.getByRole('button', { name: 'flash', exact: true }).click();
await choose(accents, 'On', 'snares');
await accents.getByRole('button', { name: 'knock', exact: true }).click();
await choose(accents, 'On', 'drums');
await accents.getByRole('list', { name: 'Accents' }).getByRole('button').nth(8).click();
await accents.keyboard.press('ArrowRight');
await accents.getByRole('heading', { name: 'Accents' }).scrollIntoViewIfNeeded();
await accents.waitForTimeout(1500);
await shoot(accents, 'accents');
for (let i = 0; i < 4; i++) await accents.keyboard.press('Control+z');
await accents.waitForTimeout(800);
const titled = await open('/projects/marble-parade/bench');
await titled.keyboard.press('Shift+A');
await titled.getByRole('button', { name: 'title', exact: true }).click();
await titled.getByLabel('Text').fill('Marble Parade');
await titled.keyboard.press('Enter');
await choose(titled, 'Words come', 'one after another');
await toFrame(titled, 40);
await titled.waitForTimeout(2000);
await shoot(titled, 'title');
for (let i = 0; i < 3; i++) await titled.keyboard.press('Control+z');
await titled.waitForTimeout(800);
const given = await open('/projects/marble-parade/bench');
// Both clips need source frames beyond the cut.
await given.keyboard.press('PageDown');
await given.keyboard.press('PageDown');
await given.getByRole('tab', { name: 'Place' }).click();
await given.getByLabel('Length, cut at its end').fill('70');
await given.keyboard.press('Enter');
await given.getByLabel('Slip, source frames').fill('40');
await given.keyboard.press('Enter');
await given.keyboard.press('PageUp');
await given.getByLabel('Length, cut at its end').fill('104');
await given.keyboard.press('Enter');
await given.keyboard.press('Shift+D');
await given.waitForTimeout(3000);
await shoot(given, 'dissolve');
for (let i = 0; i < 4; i++) await given.keyboard.press('Control+z');
await given.waitForTimeout(800);
const night = await open('/projects/marble-parade/bench', 'night');
await toFrame(night, 80);
await night.getByRole('button', { name: /^Reach 2/ }).click();
await night.keyboard.press('Alt+2');
await night.waitForTimeout(500);
await shoot(night, 'bench-night');
const footage = await open('/projects/marble-parade/footage');
await shoot(footage, 'footage');
await footage.getByRole('button', { name: 'This machine', exact: true }).click();
await footage.getByRole('row', { name: 'pendulum.mp4' }).getByText('240 fps').waitFor();
for (const name of ['marble-bell.mp4', 'dominoes.mp4'])
  await footage.getByRole('row', { name }).getByRole('checkbox').click();
await footage.waitForTimeout(2500);
await shoot(footage, 'this-machine');
const renders = await open('/projects/marble-parade/renders');
await renders.getByRole('button', { name: 'Render', exact: true }).click();
await renders.getByRole('link', { name: 'Download' }).waitFor({ timeout: 180_000 });
await renders.getByRole('radio', { name: 'MKV · FFV1' }).click();
await renders.getByRole('button', { name: 'Render', exact: true }).click();
await renders.getByText(/\d s left/).waitFor();
await shoot(renders, 'renders');
await shoot(await open('/'), 'projects');

await browser.close();
server.kill('SIGTERM');
rmSync(data, { recursive: true, force: true });

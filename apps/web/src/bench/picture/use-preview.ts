import { useEffect, useMemo, useState, type RefObject } from 'react';
import { canvasStore } from './picture-canvas.ts';
import { effectsOf } from '@idle-bend/core/accent';
import { NO_EFFECTS, type Effects } from '@idle-bend/core/look';
import type { Footage } from '@idle-bend/core/api';
import { BT709, highRangeOf, reelSpaceOf, type ColourSpace } from '@idle-bend/core/colour';
import { excerptOf, footageOf } from '@idle-bend/core/group';
import type { Project } from '@idle-bend/core/model';
import { placeItems } from '@idle-bend/core/reel';
import { linesOf, type ProxyLines, USUAL_LINES } from '@idle-bend/core/proxy';
import { draftSize } from '@idle-bend/core/render';
import { framesPerSecond } from '@idle-bend/core/time';
import { footageUrl, proxyUrl } from '../../api.ts';
import { canDecode } from '../../preview/can-decode.ts';
import type { Compared, FromPreview, PreviewClip, PreviewFilm } from '../../preview/messages.ts';
import { endPreview, startPreview, tellPreview } from '../../preview/thread.ts';
import { useFootage } from '../motion.ts';
import { keepThumb } from './thumbs.ts';
import { benchClips, benchStore, type BenchClip, type Shown } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';

/** With `?checksums` in the address every picture that is shown has its checksum, those of playback too. */
const CHECKSUMS = new URLSearchParams(location.search).has('checksums');

/** How many frames of playback were left out between what was shown and what is shown now; playback may have ended since that was asked for. */
function leftOut({ k, direction }: Shown): number {
  const { shown, dropped } = benchStore.getState();
  const passed = shown ? (k - shown.k) * Math.sign(direction) : 0;
  return dropped + Math.max(0, passed - 1);
}

function hear(message: FromPreview): void {
  if (message.kind === 'shown') benchStore.setState({ shown: message, dropped: leftOut(message) });
  if (message.kind === 'smooth')
    benchStore.setState(({ smooth }) => ({
      smooth: smooth && { ...smooth, done: message.done, total: message.total },
    }));
  if (message.kind === 'thumb') keepThumb(message);
}

/**
 * The colour space pictures are shown in, which is a draft's: the reel's or, without one of its own, its first clip's. A reel of high
 * dynamic range is shown by its proxies, which are in the standard range.
 */
function shownSpace(project: Project, footage: readonly Footage[] | undefined): ColourSpace {
  const first = placeItems(project).flatMap(({ item }) =>
    item.kind === 'clip' ? footageOf(project, item).slice(0, 1) : [],
  )[0];
  const own = footage?.find(({ id }) => id === first?.id)?.facts.picture?.colour;
  const space = project.reel.colour ?? (own && reelSpaceOf(own));
  return space && !highRangeOf(space) ? space : BT709;
}

/** How many lines pictures are shown at: as many as the largest proxies of the project have. */
export const shownLines = (footage: readonly Footage[] | undefined): ProxyLines =>
  (footage ?? []).reduce<ProxyLines>((most, { facts: { picture } }) => {
    const lines = picture ? linesOf(picture.proxy) : USUAL_LINES;
    return lines > most ? lines : most;
  }, USUAL_LINES);

/** The addresses of the footage a clip shows: proxies, and originals where those are still being made; nothing where one is not there. */
function filmsOf(
  { project, clip }: BenchClip,
  footage: readonly Footage[] | undefined,
): Record<string, PreviewFilm> | undefined {
  const films: Record<string, PreviewFilm> = {};
  const space = shownSpace(project, footage);
  for (const { id, frames, nativeRate } of footageOf(project, clip)) {
    const media = footage?.find((f) => f.id === id);
    if (!media || media.status === 'failed') return undefined;
    // One of another size is another file.
    const { width, height } = media.facts.picture!.proxy;
    const revision = `${media.revision}-${width}x${height}`;
    const isWhole = media.status === 'ready' && canDecode();
    const url = isWhole ? proxyUrl(id, revision) : footageUrl(id);
    films[id] = { isWhole, url, revision, frames, framesPerSecond: framesPerSecond(nativeRate), space };
  }
  return films;
}

/** Whether two clips as the preview knows them show the same pictures; names and moments of sources change none. */
function samePictures(a: PreviewClip | undefined, b: PreviewClip | undefined): boolean {
  if (!a || !b || a.clip !== b.clip || a.length !== b.length || JSON.stringify(a.films) !== JSON.stringify(b.films))
    return a === b;
  const [one, other] = [a.project, b.project];
  const reel = (['rate', 'width', 'height', 'method', 'tuning', 'blur'] as const).every(
    (field) => one.reel[field] === other.reel[field],
  );
  const ramps = ({ reel: { joins } }: Project) =>
    JSON.stringify(joins.map(({ before, into, outOf, blur }) => [before, into, outOf, blur]));
  const sources = one.sources.every((source, i) => {
    const same = other.sources[i];
    return (
      source.id === same?.id &&
      source.content === same.content &&
      source.droppedRepeats === same.droppedRepeats &&
      source.frames === same.frames
    );
  });
  const accents = (p: PreviewClip) => JSON.stringify([[...p.effects], p.size, p.space]);
  const beside = a.places.every(({ item, start, frames }, i) => {
    const same = b.places[i];
    return item === same?.item && start === same.start && frames === same.frames;
  });
  return (
    a.places.length === b.places.length &&
    beside &&
    accents(a) === accents(b) &&
    reel &&
    sources &&
    ramps(one) === ramps(other) &&
    one.sources.length === other.sources.length
  );
}

/** A clip as the preview has to know it, without accents. */
const plainClip = (
  { project, clip, frames }: BenchClip,
  films: Record<string, PreviewFilm>,
  space: ColourSpace,
  lines: ProxyLines,
): PreviewClip => ({
  ...{ clip, films, space, project: excerptOf(project, [clip]), places: [{ item: clip, start: 0, frames }] },
  ...{ length: frames, effects: new Map(), size: draftSize(project.reel, lines) },
});

/** The same with what accents do to its frames, in its own time, and with the clips it comes from and gives way to. */
function previewClip(
  bench: BenchClip,
  films: Record<string, PreviewFilm>,
  footage: readonly Footage[] | undefined,
): PreviewClip {
  const { project, clip, start, frames } = bench;
  const plain = plainClip(bench, films, shownSpace(project, footage), shownLines(footage));
  if (project.reel.accents.length === 0) return plain;
  const at = effectsOf(project);
  const effects = new Map<number, Effects>();
  for (let k = 0; k < frames; k++) {
    const found = at(start + k);
    if (found === NO_EFFECTS) continue;
    const held = found.held === undefined ? undefined : Math.max(0, found.held - start);
    effects.set(k, { ...found, held, across: found.across && { ...found.across, cut: found.across.cut - start } });
  }
  if (![...effects.values()].some(({ across }) => across)) return { ...plain, effects };
  const all = placeItems(project);
  const i = all.findIndex(({ item }) => item.id === clip.id);
  const places = all.slice(Math.max(0, i - 1), i + 2).map((place) => ({ ...place, start: place.start - start }));
  const clips = places.flatMap(({ item }) => (item.kind === 'clip' ? [item] : []));
  const besides = benchClips(project).filter((each) => clips.some(({ id }) => id === each.clip.id && id !== clip.id));
  // Footage beside it that is not prepared yet is left black.
  const more = besides.map((each) => filmsOf(each, footage) ?? {});
  return {
    ...plain,
    effects,
    places,
    project: excerptOf(project, clips),
    films: Object.assign({}, ...more, films) as Record<string, PreviewFilm>,
  };
}

/** The clip as the preview has to know it: the same value while nothing that shows changes. */
function usePreviewClip(bench: BenchClip, footage: readonly Footage[] | undefined): PreviewClip | undefined {
  const now = useMemo(() => {
    const films = filmsOf(bench, footage);
    return films && previewClip(bench, films, footage);
  }, [bench, footage]);
  const [told, tell] = useState(now);
  if (samePictures(told, now)) return told;
  tell(now);
  return now;
}

/** This many seconds before a cut the clip behind it is made ready. */
const AHEAD_SECONDS = 1;

/** Near a cut, while playing on, the thread is told of the clip that follows. */
function useNextClip({ project, clip, frames }: BenchClip, footage: readonly Footage[] | undefined): void {
  const near = useBench((s) => s.clock > 0 && frames - s.k < AHEAD_SECONDS * framesPerSecond(project.reel.rate));
  useEffect(() => {
    if (!near) return;
    const clips = benchClips(project);
    const next = clips[clips.findIndex((each) => each.clip.id === clip.id) + 1];
    const films = next && filmsOf(next, footage);
    if (films)
      tellPreview({
        kind: 'next',
        k: 0,
        clip: plainClip(next, films, shownSpace(project, footage), shownLines(footage)),
      });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for every cut that comes near
  }, [near, clip.id]);
}

/**
 * The preview thread and the canvas it draws on, put into `holder`. Sends it the clip and the playhead. Returns its
 * last problem, if there is one.
 */
export function usePreview(
  holder: RefObject<HTMLElement | null>,
  bench: BenchClip,
  other: Compared | undefined,
): string | undefined {
  const { clip, frames } = bench;
  const footage = useFootage();
  const [problem, setProblem] = useState<string>();

  // A canvas is handed over once in its life, so thread and canvas live and die together.
  useEffect(() => {
    const canvas = document.createElement('canvas');
    canvas.className = 'h-full w-full object-contain';
    canvas.setAttribute('aria-hidden', 'true');
    holder.current!.append(canvas);
    canvasStore.setState({ canvas });
    const thread = startPreview();
    thread.addEventListener('message', ({ data }: MessageEvent<FromPreview>) => {
      setProblem(data.kind === 'problem' ? data.message : undefined);
      hear(data);
    });
    const offscreen = canvas.transferControlToOffscreen();
    tellPreview({ kind: 'canvas', canvas: offscreen }, [offscreen]);
    return () => {
      endPreview(thread);
      canvas.remove();
      canvasStore.setState({ canvas: undefined });
      benchStore.setState({ shown: undefined, smooth: undefined });
    };
  }, [holder]);

  const k = useBench((s) => s.k);
  const clock = useBench((s) => s.clock);
  const look = useBench((s) => s.look);
  const told = usePreviewClip(bench, footage);
  useEffect(() => {
    if (told) tellPreview({ kind: 'clip', clip: told });
  }, [told]);
  useEffect(() => tellPreview({ kind: 'compare', other }), [other]);
  useEffect(() => tellPreview({ kind: 'look', look }), [look]);
  useEffect(() => {
    const at = Math.min(k, frames - 1);
    tellPreview({ kind: 'show', k: at, direction: clock, settled: clock === 0, checksums: CHECKSUMS });
  }, [k, clock, frames, told, other, look]);
  useNextClip(bench, footage);
  const smooth = useBench((s) => s.smooth);
  const stretch = smooth?.clip === clip ? `${smooth.from} ${smooth.to}` : '';
  // After the clip itself: a clip that changes stops what was made ahead for the one before.
  useEffect(() => {
    const [from, to] = stretch.split(' ').map(Number);
    tellPreview({ kind: 'smooth', stretch: stretch === '' ? undefined : { from: from!, to: to! } });
  }, [stretch, told]);
  return problem;
}

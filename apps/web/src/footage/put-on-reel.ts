import { addSource, appendClip, setReadAs, type Project, type Rate, type Footage, type PictureFacts } from '@idle-bend/core';

/** The project with this footage among its sources, under its name without the ending. */
function withSource(project: Project, { id, name }: Footage, { rate, frames }: PictureFacts): Project {
  if (project.sources.some((s) => s.id === id)) return project;
  return addSource(project, { id, name: name.replace(/\.\w+$/, ''), frames, nativeRate: rate, readAs: rate, moments: [], skips: null });
}

/** Reads footage at another rate from now on. */
export function readFootageAs(project: Project, footage: Footage, picture: PictureFacts, readAs: Rate): Project {
  return setReadAs(withSource(project, footage, picture), footage.id, readAs);
}

/** The reel of this version holds one clip: another takes its place (one undo brings it back). The first one gives the reel its size. */
export function putOnReel(project: Project, footage: Footage, picture: PictureFacts): Project {
  const known = withSource(project, footage, picture);
  const first = known.reel.items.length === 0;
  const { width, height, pixelAspect } = picture;
  const size = first && { width: even((width * pixelAspect.num) / pixelAspect.den), height: even(height) };
  return appendClip({ ...known, reel: { ...known.reel, ...size, items: [] } }, `clip-${crypto.randomUUID().slice(0, 8)}`, footage.id);
}

const even = (n: number) => Math.max(2, Math.round(n / 2) * 2);

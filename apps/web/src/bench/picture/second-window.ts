import { tellError } from '../../session/notices.ts';
import { canvasStore } from './picture-canvas.ts';

let opened: Window | null = null;

/**
 * The picture in a window of its own, for another screen, or no longer. It is the same canvas seen once more: there is one document, one
 * playhead and one undo, and keys pressed there do what they do on the bench.
 */
export function toggleSecondWindow(): void {
  if (opened && !opened.closed) return opened.close();
  opened = window.open('', 'idle-bend-picture', 'popup,width=1280,height=720');
  if (!opened) return tellError('The browser does not let a second window open; allow it for this address.');
  const { document: page } = opened;
  page.title = 'Idle Bend: picture';
  page.body.replaceChildren();
  Object.assign(page.body.style, { margin: '0', background: '#262626' });
  const video = page.createElement('video');
  Object.assign(video, { muted: true, autoplay: true, playsInline: true });
  Object.assign(video.style, { width: '100vw', height: '100vh', objectFit: 'contain', display: 'block' });
  video.setAttribute('aria-label', 'The picture at the playhead');
  video.addEventListener('dblclick', () => void turnFull(video));
  page.body.append(video);
  const follow = () => {
    const { canvas } = canvasStore.getState();
    video.srcObject = canvas ? canvas.captureStream() : null;
  };
  follow();
  const stop = canvasStore.subscribe(follow);
  for (const kind of ['keydown', 'keyup'] as const) opened.addEventListener(kind, passOn);
  opened.addEventListener('pagehide', stop);
  window.addEventListener('pagehide', () => opened?.close(), { once: true });
}

const turnFull = (video: HTMLVideoElement): Promise<void> =>
  video.ownerDocument.fullscreenElement ? video.ownerDocument.exitFullscreen() : video.requestFullscreen();

/** A key that is pressed in the second window, once more on the bench. */
function passOn(event: KeyboardEvent): void {
  const { type, key, code, shiftKey, ctrlKey, altKey, metaKey } = event;
  document.body.dispatchEvent(
    new KeyboardEvent(type, { key, code, shiftKey, ctrlKey, altKey, metaKey, bubbles: true, cancelable: true }),
  );
}

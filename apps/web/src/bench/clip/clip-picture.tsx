import { setClipBlur } from '@idle-bend/core/edit';
import { BlurFields } from '../blur/blur-fields.tsx';
import { ClipFraming } from '../framing/clip-framing.tsx';
import { ClipSteady } from '../steady/clip-steady.tsx';
import { edit } from '../../session/session.ts';
import { type BenchClip } from '../../session/bench-state.ts';

/** What is done to the clip's picture beside its speed: how it lies in the reel's, whether it is held steady, and how its motion is blurred. */
export function ClipPicture({ bench }: { bench: BenchClip }) {
  const { clip } = bench;
  return (
    <>
      <ClipFraming bench={bench} />
      <ClipSteady bench={bench} />
      <BlurFields
        label="Motion blur"
        blur={clip.blur}
        inherits={{ text: 'the reel’s', title: 'As the reel says' }}
        set={(blur) => edit((project) => setClipBlur(project, clip.id, blur))}
      />
    </>
  );
}

import type { Footage } from '@idle-bend/core/api';
import { AlertDialog } from 'radix-ui';
import { useRef, useState } from 'react';
import { AskFrame } from '../ui/ask.tsx';
import { sizeText } from '../ui/size-text.ts';
import { fingerprintOf } from './chosen-file.ts';
import { sendFile } from './uploads.ts';

/** A file that was chosen and is not the one that is, or was, there. */
interface Other {
  readonly file: File;
  readonly seconds: number | undefined;
}

/**
 * Another file behind footage: `choose` asks for it, `parts` has to stand in the page. The very file is sent at once; of any other is
 * said how it differs, and asked.
 */
export function useReplacing({ id, name, fingerprint, facts }: Footage, projectId: string) {
  const chooser = useRef<HTMLInputElement>(null);
  const [other, setOther] = useState<Other>();
  const take = async (file: File) => {
    // Over a plain network pages have no digests; then nothing tells that it is the same.
    const isSame = fingerprint !== null && 'subtle' in crypto && (await fingerprintOf(file)) === fingerprint;
    if (isSame) sendFile(projectId, file, { replaces: id });
    else setOther({ file, seconds: await lengthOf(file) });
  };
  const parts = (
    <>
      <input
        ref={chooser}
        type="file"
        hidden
        aria-label={`File in place of ${name}`}
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          if (file) void take(file);
          e.target.value = '';
        }}
      />
      {other && (
        <AlertDialog.Root open onOpenChange={(open) => open || setOther(undefined)}>
          <AskFrame
            question={`Use “${other.file.name}” for “${name}”?`}
            means={`It is not the file that was taken in: ${differences(other, facts).join(', ')}. Clips and moments keep their frame numbers, and show what this file has there. The name stays.`}
            yes="Use it"
            no="Cancel"
            run={() => sendFile(projectId, other.file, { replaces: id })}
          />
        </AlertDialog.Root>
      )}
    </>
  );
  return { choose: () => chooser.current?.click(), parts };
}

function differences({ file, seconds }: Other, { bytes, durationSeconds }: Footage['facts']): string[] {
  const length = (value: number) => `${value.toFixed(2)} s`;
  return [
    ...(seconds !== undefined && durationSeconds !== null && Math.abs(seconds - durationSeconds) >= 0.01
      ? [`${length(seconds)} long instead of ${length(durationSeconds)}`]
      : []),
    file.size === bytes ? 'as large, with other content' : `${sizeText(file.size)} instead of ${sizeText(bytes)}`,
  ];
}

/** How long a film or sound is that this browser can open, in seconds. */
function lengthOf(file: File): Promise<number | undefined> {
  const media = document.createElement('video');
  const address = URL.createObjectURL(file);
  return new Promise<number | undefined>((resolve) => {
    media.onloadedmetadata = () => resolve(Number.isFinite(media.duration) ? media.duration : undefined);
    media.onerror = () => resolve(undefined);
    media.preload = 'metadata';
    media.src = address;
  }).finally(() => URL.revokeObjectURL(address));
}

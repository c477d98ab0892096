import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { readShapes, writeShapes, type SavedShape } from '@idle-bend/core/shape';
import { Download, Plus, Trash2, Upload } from 'lucide-react';
import { useRef, useState } from 'react';
import { api } from '../../api.ts';
import { CurveDrawing } from './curve-drawing.tsx';
import { EaseDrawing } from './ease-drawing.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { newId } from '../../session/command.ts';
import { tell, tellError } from '../../session/notices.ts';

type Content =
  | { readonly kind: 'bend'; readonly ease: Extract<SavedShape, { kind: 'bend' }>['ease'] }
  | { readonly kind: 'clip'; readonly map: Extract<SavedShape, { kind: 'clip' }>['map'] };

interface Props {
  readonly kind: SavedShape['kind'];
  /** What saving now would keep; may throw `InvalidInput`. */
  readonly content: () => Content;
  readonly put: (shape: SavedShape) => void;
}

/** The editor's own shapes, for every project of this server: save, name, use, remove, to and from a file. */
export function SavedShapes({ kind, content, put }: Props) {
  const queries = useQueryClient();
  const { data: all = [] } = useQuery({ queryKey: ['shapes'], queryFn: api.shapes });
  const handlers = {
    onSuccess: () => queries.invalidateQueries({ queryKey: ['shapes'] }),
    onError: (e: Error) => tellError(e.message),
  };
  const keep = useMutation({
    mutationFn: async (shapes: readonly SavedShape[]) => void (await Promise.all(shapes.map(api.keepShape))),
    ...handlers,
  });
  const forget = useMutation({ mutationFn: api.removeShape, ...handlers });
  const chooser = useRef<HTMLInputElement>(null);
  const [chosen, setChosen] = useState<string>();
  const mine = all.filter((shape) => shape.kind === kind);
  const shape = mine.find((s) => s.id === chosen);
  const save = () => {
    try {
      const id = newId('shape');
      keep.mutate([{ id, name: `mine ${mine.length + 1}`, note: '', ...content() }]);
      setChosen(id);
    } catch (error) {
      tell((error as Error).message);
    }
  };
  const take = async (file: File | undefined) => {
    try {
      if (file) keep.mutate(readShapes(JSON.parse(await file.text())));
    } catch (error) {
      tellError(`${file?.name}: ${(error as Error).message}`);
    }
  };
  return (
    <section aria-label="My shapes" className="flex flex-col gap-2">
      <div className="flex items-center gap-1.5">
        <h3 className="label mb-0 mr-auto">My shapes</h3>
        <button className="button px-2 py-0.5 text-xs" onClick={save}>
          <Plus size={13} aria-hidden /> Save this one
        </button>
        <button
          className="button px-2 py-0.5 text-xs"
          disabled={all.length === 0}
          onClick={() => download(writeShapes(all))}
          aria-label="Export all my shapes"
        >
          <Download size={13} aria-hidden />
        </button>
        <button
          className="button px-2 py-0.5 text-xs"
          onClick={() => chooser.current?.click()}
          aria-label="Import shapes"
        >
          <Upload size={13} aria-hidden />
        </button>
        <input
          ref={chooser}
          type="file"
          accept=".json"
          hidden
          aria-label="Shapes file"
          onChange={(e) => (void take(e.target.files?.[0]), (e.target.value = ''))}
        />
      </div>
      {mine.length > 0 && (
        <div className="grid grid-cols-5 gap-1.5">
          {mine.map((each) => (
            <button
              key={each.id}
              aria-pressed={each.id === chosen}
              data-tip={each.note}
              className={`bg-sheet truncate rounded-lg border px-1 pt-1 text-xs ${each.id === chosen ? 'border-vermilion' : 'border-line hover:border-river'}`}
              onClick={() => (setChosen(each.id), put(each))}
            >
              {each.kind === 'bend' ? <EaseDrawing ease={each.ease} falls={false} /> : <CurveDrawing map={each.map} />}
              {each.name}
            </button>
          ))}
        </div>
      )}
      {shape && (
        <div className="grid grid-cols-[1fr_1.6fr_auto] items-end gap-2">
          <TypedField label="Name" text={shape.name} commit={(name) => keep.mutate([{ ...shape, name }])} />
          <TypedField label="Note" text={shape.note} commit={(note) => keep.mutate([{ ...shape, note }])} />
          <button
            className="button h-8 px-2"
            aria-label={`Delete ${shape.name}`}
            onClick={() => forget.mutate(shape.id)}
          >
            <Trash2 size={15} aria-hidden />
          </button>
        </div>
      )}
    </section>
  );
}

function download(text: string): void {
  const url = URL.createObjectURL(new Blob([text], { type: 'application/json' }));
  const link = Object.assign(document.createElement('a'), { href: url, download: 'shapes.idle-bend.json' });
  link.click();
  URL.revokeObjectURL(url);
}

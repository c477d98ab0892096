import { BT709, spaceWords, type ColourSpace } from '@idle-bend/core/colour';
import { AlertDialog } from 'radix-ui';

/** Asks once, when a reel begins with footage of high dynamic range, what the reel is to be. */
export function HighRangeChoice({
  space,
  choose,
  close,
}: {
  space: ColourSpace;
  choose: (space: ColourSpace) => void;
  close: () => void;
}) {
  return (
    <AlertDialog.Root open onOpenChange={(open) => !open && close()}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <AlertDialog.Content className="bg-paper border-line fixed top-1/3 left-1/2 z-30 w-[28rem] -translate-x-1/2 rounded-xl border p-5">
          <AlertDialog.Title className="font-display mb-1 text-lg font-semibold">
            This footage has high dynamic range
          </AlertDialog.Title>
          <AlertDialog.Description className="text-faint mb-4">
            The reel can keep it ({spaceWords(space)}), for screens that show it, or be in the standard range (
            {spaceWords(BT709)}), which plays everywhere. It can be changed later, under Reel.
          </AlertDialog.Description>
          <div className="flex gap-2">
            <AlertDialog.Action className="button button-ink" onClick={() => choose(BT709)}>
              Standard range
            </AlertDialog.Action>
            <AlertDialog.Action className="button" onClick={() => choose(space)}>
              High dynamic range
            </AlertDialog.Action>
            <AlertDialog.Cancel className="button ml-auto">Cancel</AlertDialog.Cancel>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}

import { Command } from 'cmdk';
import { Dialog } from 'radix-ui';
import { ACTIONS } from './actions.ts';
import { useBench } from '../ui/use-session.ts';
import { benchStore } from '../session/bench-state.ts';

/** Everything that can be done here, searchable, with its key. */
export function ActionsList() {
  const open = useBench((s) => s.actionsOpen);
  const close = () => benchStore.setState({ actionsOpen: false });
  return (
    <Dialog.Root open={open} onOpenChange={(now) => benchStore.setState({ actionsOpen: now })}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 bg-black/30" />
        <Dialog.Content
          aria-describedby={undefined}
          className="border-line bg-paper fixed top-24 left-1/2 w-[30rem] -translate-x-1/2 overflow-hidden rounded-xl border shadow-xl"
        >
          <Dialog.Title className="sr-only">All actions</Dialog.Title>
          <Command label="All actions" loop>
            <Command.Input
              placeholder="What do you want to do?"
              className="border-line w-full border-b bg-transparent px-4 py-3 outline-none"
            />
            <Command.List className="max-h-96 overflow-y-auto p-1.5">
              <Command.Empty className="text-faint px-3 py-2">No matches.</Command.Empty>
              {ACTIONS.map(({ name, shown, run }) => (
                <Command.Item
                  key={name}
                  className="data-[selected=true]:bg-river-pale flex cursor-pointer items-center rounded-lg px-3 py-1.5"
                  onSelect={() => {
                    close();
                    run();
                  }}
                >
                  {name}
                  {shown && <kbd className="text-faint ml-auto font-mono text-xs">{shown}</kbd>}
                </Command.Item>
              ))}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

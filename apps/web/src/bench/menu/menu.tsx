import { DropdownMenu } from 'radix-ui';
import { ACTIONS } from '../actions.ts';
import { benchStore } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';

const close = () => benchStore.setState({ menu: undefined });

/** What can be done with what was pressed, of the same table as the keys and the list of all actions. */
export function BenchMenu() {
  const menu = useBench((s) => s.menu);
  if (!menu) return null;
  return (
    <DropdownMenu.Root
      key={`${menu.of} ${menu.x} ${menu.y}`}
      open
      modal={false}
      onOpenChange={(open) => !open && close()}
    >
      <DropdownMenu.Trigger asChild>
        <span aria-hidden tabIndex={-1} className="fixed size-0" style={{ left: menu.x, top: menu.y }} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          aria-label={`Menu of the ${menu.of}`}
          align="start"
          collisionPadding={8}
          loop
          // Keys go on to the bench.
          onCloseAutoFocus={(event) => event.preventDefault()}
          className="border-line bg-paper z-40 max-h-(--radix-dropdown-menu-content-available-height) max-w-[28rem] min-w-56 overflow-y-auto rounded-lg border p-1 text-[13px] shadow-xl"
        >
          {ACTIONS.filter(({ on }) => on?.includes(menu.of)).map(({ name, shown, run }) => (
            <DropdownMenu.Item
              key={name}
              className="data-[highlighted]:bg-river-pale flex min-h-7 cursor-pointer items-center gap-6 rounded-md px-2.5 py-0.5 outline-none"
              onSelect={() => {
                close();
                run();
              }}
            >
              {name}
              {shown && <kbd className="text-faint ml-auto font-mono text-xs whitespace-nowrap">{shown}</kbd>}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

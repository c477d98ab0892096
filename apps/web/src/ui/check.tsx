import { Check as Mark } from 'lucide-react';
import { Checkbox } from 'radix-ui';
import { useId } from 'react';

interface CheckProps {
  readonly label: string;
  /** The words are for those who do not see where it stands. */
  readonly hidden?: boolean;
  readonly checked: boolean;
  readonly set: (checked: boolean) => void;
  readonly tip?: string;
  readonly className?: string;
}

/** Something that is so or not. */
export function Check({ label, hidden = false, checked, set, tip, className }: CheckProps) {
  const id = useId();
  return (
    <span className={`flex items-center gap-1.5 text-sm whitespace-nowrap ${className ?? ''}`} data-tip={tip}>
      <Checkbox.Root
        id={id}
        checked={checked}
        onCheckedChange={(next) => set(next === true)}
        aria-label={hidden ? label : undefined}
        className="border-line bg-sheet hover:border-river relative before:absolute before:-inset-1 data-[state=checked]:border-river data-[state=checked]:bg-river grid size-4 shrink-0 place-items-center rounded border"
      >
        <Checkbox.Indicator>
          <Mark size={12} strokeWidth={3} className="text-paper" aria-hidden />
        </Checkbox.Indicator>
      </Checkbox.Root>
      {!hidden && <label htmlFor={id}>{label}</label>}
    </span>
  );
}

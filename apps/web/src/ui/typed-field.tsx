import { useId, useState, type KeyboardEvent } from 'react';
import { flushSync } from 'react-dom';
import { InvalidInput } from '@idle-bend/core/foundation';

interface Props {
  readonly label: string;
  /** The label is there for those who hear the page; what is around the field says it to the others. */
  readonly isBare?: boolean;
  /** The value as it is shown. */
  readonly text: string;
  /** Takes what was typed; throws `InvalidInput` when it cannot be used, whose problem is shown. */
  readonly commit: (typed: string) => void;
  /** What arrow up (+1) and down (−1) do. */
  readonly step?: (by: 1 | -1) => void;
  /** Digits typed anywhere go here. */
  readonly takesTyping?: boolean;
}

/** A value that can be typed: Enter or leaving takes it, Escape puts the old one back, arrows step. */
export function TypedField({ label, isBare = false, text, commit, step, takesTyping }: Props) {
  const id = useId();
  const [typed, setTyped] = useState<string>();
  const [problem, setProblem] = useState<string>();
  /** False when what was typed cannot be used. */
  const take = (): boolean => {
    try {
      if (typed !== undefined && typed.trim() !== text) commit(typed.trim());
    } catch (error) {
      if (!(error instanceof InvalidInput)) throw error;
      setProblem(error.problem);
      return false;
    }
    putBack();
    return true;
  };
  const putBack = () => {
    setTyped(undefined);
    setProblem(undefined);
  };
  const onKey = (event: KeyboardEvent<HTMLInputElement>) => {
    // Taken or put back, the keys go to the bench again; leaving must find nothing typed any more.
    if (event.key === 'Enter' && flushSync(take)) event.currentTarget.blur();
    if (event.key === 'Escape') {
      flushSync(putBack);
      event.currentTarget.blur();
    }
    if (step && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      event.preventDefault();
      putBack();
      try {
        step(event.key === 'ArrowUp' ? 1 : -1);
      } catch (error) {
        if (!(error instanceof InvalidInput)) throw error;
        setProblem(error.problem);
      }
    }
  };
  return (
    <div className="min-w-0">
      <label htmlFor={id} className={isBare ? 'sr-only' : 'label'}>
        {label}
      </label>
      <input
        id={id}
        data-takes-typing={takesTyping}
        className={`field ${problem ? 'border-vermilion' : ''}`}
        value={typed ?? text}
        spellCheck={false}
        autoComplete="off"
        aria-invalid={problem !== undefined}
        aria-describedby={problem ? `${id}-problem` : undefined}
        onChange={(e) => setTyped(e.target.value)}
        onFocus={(e) => e.target.select()}
        onBlur={() => (problem ? putBack() : void take())}
        onKeyDown={onKey}
      />
      {problem && (
        <p id={`${id}-problem`} role="alert" className="text-vermilion mt-0.5 text-xs">
          {problem.charAt(0).toUpperCase() + problem.slice(1)}.
        </p>
      )}
    </div>
  );
}

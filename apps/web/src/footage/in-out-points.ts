import { create } from 'zustand';

/** The part of a piece of footage that is wanted, both frames included. */
interface InOutPoints {
  readonly first?: number;
  readonly last?: number;
}

interface FootageRoom {
  readonly marks: Readonly<Record<string, InOutPoints>>;
  /** Footage picked together, by its id. */
  readonly picked: readonly string[];
}

/** In and out points and what is picked in the footage room, for as long as the program is open. */
export const useFootageRoom = create<FootageRoom>(() => ({ marks: {}, picked: [] }));

/** Sets one end; the other gives way where they would cross. */
export function mark(id: string, end: 'first' | 'last', frame: number): void {
  useFootageRoom.setState(({ marks }) => {
    const now = { ...marks[id], [end]: frame };
    if (now.first !== undefined && now.last !== undefined && now.first > now.last)
      delete now[end === 'first' ? 'last' : 'first'];
    return { marks: { ...marks, [id]: now } };
  });
}

export const clearInOutPoints = (id: string) =>
  useFootageRoom.setState(({ marks }) => ({
    marks: Object.fromEntries(Object.entries(marks).filter(([key]) => key !== id)),
  }));

export const togglePick = (id: string) =>
  useFootageRoom.setState(({ picked }) => ({
    picked: picked.includes(id) ? picked.filter((other) => other !== id) : [...picked, id],
  }));

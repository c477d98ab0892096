import { withSource } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { useMemo } from 'react';
import { useFootage } from './motion.ts';

/** All footage with a picture, on the reel or not; `known` is a project with one of it among its sources. */
export function useFilms() {
  const footage = useFootage();
  return useMemo(() => {
    const films = (footage ?? []).flatMap(({ id, name, facts: { picture } }) =>
      picture ? [{ id, name, picture }] : [],
    );
    const known = (project: Project, id: string): Project => {
      const film = films.find((each) => each.id === id);
      return film ? withSource(project, film, film.picture) : project;
    };
    return { films, known };
  }, [footage]);
}

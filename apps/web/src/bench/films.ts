import { withSource } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { useMemo } from 'react';
import { useFootage } from './motion.ts';

/** A project with footage that has a picture among its sources, on the reel or not: `known` with one of it, `whole` with all. */
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
    const whole = (project: Project): Project => films.reduce((each, { id }) => known(each, id), project);
    return { known, whole };
  }, [footage]);
}

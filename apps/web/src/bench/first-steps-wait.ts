const SEEN = 'first-steps';
/** The project the steps are about. */
const DEMO = 'marble-parade';

/** Whether a newcomer to the demo has steps to take yet, in this browser. */
export const firstStepsWait = (projectId: string): boolean => projectId === DEMO && localStorage.getItem(SEEN) === null;

export const firstStepsAreDone = (): void => localStorage.setItem(SEEN, 'seen');

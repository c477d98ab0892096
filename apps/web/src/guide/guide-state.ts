import { createStore } from 'zustand/vanilla';

interface GuideState {
  /** The recipe that is open, by its file's name; '' for the list of them; nothing while the guide is closed. */
  readonly page: string | undefined;
}

export const guideStore = createStore<GuideState>(() => ({ page: undefined }));

/** It was asked for and is not there yet: what is typed is meant for it. */
export const isGuideOnItsWay = (): boolean =>
  guideStore.getState().page !== undefined && document.querySelector('aside[aria-label=Guide]') === null;

export const openGuide = (page = ''): void => guideStore.setState({ page });

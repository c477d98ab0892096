import { createStore } from 'zustand/vanilla';

interface GuideState {
  /** The recipe that is open, by its file's name; '' for the list of them; nothing while the guide is closed. */
  readonly page: string | undefined;
}

export const guideStore = createStore<GuideState>(() => ({ page: undefined }));

export const openGuide = (page = ''): void => guideStore.setState({ page });

import { create } from "zustand";

/** Whether the service has stopped answering: known by what was asked last. */
export const useReach = create<{ gone: boolean }>(() => ({ gone: false }));

export const setGone = (gone: boolean) => {
  if (useReach.getState().gone !== gone) useReach.setState({ gone });
};

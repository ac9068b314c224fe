import { create } from "zustand";

/** The address that came from elsewhere last, until it has been looked through for what is not there any more. */
export const useArrival = create<{ address: URLSearchParams | null }>(() => ({ address: null }));

export const arriveWith = (address: URLSearchParams | null) => useArrival.setState({ address });

import type { ReactNode } from "react";

interface Props {
  asked: { error: Error | null; isPending: boolean; data?: unknown };
  /** Said while it is on its way, and where there is nothing. */
  reading: string;
  empty: ReactNode;
}

/** What stands in the place of what is not there: it is being read, it could not be, or there is none. */
export function Missing({ asked, reading, empty }: Props) {
  if (asked.data !== undefined) return <>{empty}</>;
  if (asked.error) return <span role="alert">{asked.error.message}</span>;
  return <>{asked.isPending ? reading : empty}</>;
}

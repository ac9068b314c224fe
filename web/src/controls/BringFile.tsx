import { useEffect, useRef } from "react";
import { useStating } from "../api/kept";
import { type Kind, taken, useDropped } from "../bench/dropped";

interface Props {
  label: string;
  testid: string;
  accept: string;
  /** Sends a file; what it answers is handed on. */
  send: (file: File) => Promise<unknown>;
  primary?: boolean;
  /** What it takes of files that were dropped on the bench. */
  takes?: Kind;
}

/** A button that brings in a file; what is wrong with it is told as any refused change is. */
export function BringFile({ label, testid, accept, send, primary, takes }: Props) {
  const file = useRef<HTMLInputElement>(null);
  const bring = useStating(send);
  const { files, as } = useDropped();
  const dropped = takes && as === takes ? files[0] : undefined;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each file
  useEffect(() => {
    if (!dropped) return;
    taken();
    bring.mutate(dropped);
  }, [dropped]);
  return (
    <>
      <button
        type="button"
        className={primary ? "btn btn-primary btn-sm" : "ghost"}
        disabled={bring.isPending}
        onClick={() => file.current?.click()}
      >
        {bring.isPending ? "Reading the file …" : label}
      </button>
      <input
        ref={file}
        type="file"
        hidden
        accept={accept}
        data-testid={testid}
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          if (chosen) bring.mutate(chosen);
          e.target.value = "";
        }}
      />
    </>
  );
}

import { useRef } from "react";
import { useStating } from "../api/kept";

interface Props {
  label: string;
  testid: string;
  accept: string;
  /** Sends a file; what it answers is handed on. */
  send: (file: File) => Promise<unknown>;
  primary?: boolean;
}

/** A button that brings in a file; what is wrong with it is told as any refused change is. */
export function BringFile({ label, testid, accept, send, primary }: Props) {
  const file = useRef<HTMLInputElement>(null);
  const bring = useStating(send);
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

/** Why something asked for cannot be, where it was asked. */
export function Refused({ error }: { error: unknown }) {
  if (!error) return null;
  return (
    <div className="problem-line" role="alert">
      {error instanceof Error ? error.message : String(error)}
    </div>
  );
}

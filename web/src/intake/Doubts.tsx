import type { Contents, Schemas } from "../api/client";
import { api, ask } from "../api/client";
import { useChange } from "../api/queries";

type Act = Schemas["ActOut"];

/** States what an act says, at the address its statement has. */
function state(result: number, { what, words }: Act) {
  const params = { path: { result } };
  const body = words as never;
  if (what === "units") return ask(api.PUT("/api/results/{result}/units", { params, body }));
  if (what === "model") return ask(api.PUT("/api/results/{result}/model", { params, body }));
  if (what === "steps") return ask(api.PUT("/api/results/{result}/steps", { params, body }));
  return ask(api.PUT("/api/results/{result}/fields", { params, body }));
}

/** What was guessed of the files and changes the numbers: one short list, each with what settles it. */
export function Doubts({
  contents,
  onStated,
  onForm,
}: {
  contents: Contents;
  onStated: () => void;
  onForm: () => void;
}) {
  const change = useChange((act: Act) => state(contents.id, act));
  if (!contents.doubts.length) return null;
  return (
    <>
      <h3 className="sub">
        Doubtful <span className="fig">{contents.doubts.length}</span>
      </h3>
      <ul className="plain doubts" data-testid="doubts">
        {contents.doubts.map((doubt) => (
          <li key={doubt.said}>
            <div>{doubt.said}</div>
            <small>{doubt.why}</small>
            {doubt.acts.length > 0 && (
              <div className="doubt-acts">
                {doubt.acts.map((act) => (
                  <button
                    key={act.label}
                    type="button"
                    className="link"
                    aria-label={`${act.label}: ${doubt.said}`}
                    disabled={change.isPending}
                    onClick={() =>
                      Object.keys(act.words).length ? change.mutate(act, { onSuccess: onStated }) : onForm()
                    }
                  >
                    {act.label}
                  </button>
                ))}
              </div>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}

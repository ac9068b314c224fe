import { api, ask, type FieldInfo, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { Chooser } from "../reading/Chooser";

type Entry = Omit<Schemas["FieldEntryIn"], "field">;

const orders = [
  ["xx", "yy", "zz", "xy", "yz", "xz"],
  ["xx", "yy", "zz", "xy", "xz", "yz"],
  ["xx", "yy", "zz", "yz", "xz", "xy"],
  ["xx", "xy", "yy", "xz", "yz", "zz"],
  ["xx", "xy", "xz", "yy", "yz", "zz"],
];
const place: Record<string, string> = { gauss: "Gauss point" };

/** What a field was taken for; every part that may be wrong can be corrected right there. */
export function FieldEntry({ result, field, onStated }: { result: number; field: FieldInfo; onStated: () => void }) {
  const change = useChange((entry: Entry) =>
    ask(
      api.PUT("/api/results/{result}/fields", {
        params: { path: { result } },
        body: { field: field.name, ...entry },
      }),
    ),
  );
  const state = (entry: Entry) => change.mutate(entry, { onSuccess: onStated });
  if (field.recovered)
    return (
      <small>
        {field.kind}, {field.rank} at each {place[field.location] ?? field.location}{" "}
        <b className="doubt">recovered here</b>: {field.recovered}
      </small>
    );
  return (
    <small>
      {field.names ? (
        `${field.kind || "names something"}, never averaged`
      ) : (
        <Chooser
          label={field.kind || "kind not known"}
          title={`Kind of ${field.name}`}
          className="word-plain"
          choices={[
            ...field.kinds.map((k) => ({ value: k, label: k })),
            { value: "", label: "kind not known", explanation: "Its numbers are shown without a unit." },
          ]}
          value={field.kind}
          onChoose={(kind) => state({ kind })}
        />
      )}
      {field.guessed && <span className="guess">guessed</span>}, {field.rank} at each{" "}
      {field.points ? `of ${field.points} Gauss points` : (place[field.location] ?? field.location)}
      {field.layers > 0 && ` in each of ${field.layers} layers`}
      {field.harmonic && ", a harmonic"}, {field.precision} precision
      {field.columns && (
        <>
          , columns{" "}
          <Chooser
            label={field.columns}
            title={`Columns of ${field.name}`}
            className="word-plain"
            choices={field.ways.map((way) => ({ value: way, label: way }))}
            value={field.columns}
            onChoose={(columns) => state({ columns })}
          />
        </>
      )}
      {field.layouts.length > 0 && (
        <>
          , four columns{" "}
          <Chooser
            label={field.layout}
            title={`Components of ${field.name}`}
            className="word-plain"
            choices={field.layouts.map((layout) => ({ value: layout, label: layout }))}
            value={field.layout}
            onChoose={(layout) => state({ layout })}
          />
        </>
      )}
      {field.surface_ways.length > 0 && (
        <>
          , in{" "}
          <Chooser
            label={field.surface_ways.find((w) => w.name === field.surface_axes)?.label ?? "axes not stated"}
            title={`Axes of ${field.name}`}
            className={`word-plain ${field.surface_axes ? "" : "doubt"}`}
            choices={[
              ...field.surface_ways.map((w) => ({ value: w.name, label: w.label })),
              { value: "", label: "axes not stated", explanation: "The answers say what they are taken for." },
            ]}
            value={field.surface_axes}
            onChoose={(surface_axes) => state({ surface_axes })}
          />
        </>
      )}
      {field.order && (
        <>
          , order{" "}
          <Chooser
            label={field.order.join(" ")}
            title={`Order of ${field.name}`}
            className="word-plain"
            choices={orders.map((o) => ({
              value: o.join(","),
              label: o.join(" "),
              explanation: o === orders[0] ? "taken where the file names no components" : undefined,
            }))}
            value={field.order.join(",")}
            onChoose={(order) => state({ order: order.split(",") })}
          />
        </>
      )}
      {field.shear && (
        <>
          ,{" "}
          <Chooser
            label={`${field.shear} shear in the file`}
            title={`Shear of ${field.name}`}
            className="word-plain"
            choices={[
              { value: "tensor", label: "tensor shear", explanation: "Half the change of the right angle." },
              {
                value: "engineering",
                label: "engineering shear",
                explanation: "The change of the right angle: halved.",
              },
            ]}
            value={field.shear}
            onChoose={(shear) => state({ shear: shear as "tensor" | "engineering" })}
          />
        </>
      )}
      {field.can_be_averaged && (
        <>
          ,{" "}
          <Chooser
            label={field.averaged_before ? "averaged before import" : "as computed at the nodes"}
            title={`Was ${field.name} averaged`}
            className={`word-plain ${field.averaged_before ? "doubt" : ""}`}
            choices={[
              {
                value: "yes",
                label: "averaged before import",
                explanation: "Means over elements, which cannot be un-averaged.",
              },
              { value: "no", label: "as computed at the nodes", explanation: "A quantity with one value at a node." },
            ]}
            value={field.averaged_before ? "yes" : "no"}
            onChoose={(v) => state({ averaged_before: v === "yes" })}
          />
        </>
      )}
    </small>
  );
}

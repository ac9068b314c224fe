import { type ChangeEvent, type MouseEvent, type ReactNode, useRef, useState } from "react";
import { Modal } from "react-bootstrap";
import { api, ask, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { useBench } from "../bench/store";
import { Refused } from "../controls/Refused";
import { Switch } from "../controls/Switch";
import { parse } from "../reading/format";

type Place = [number, number];

interface Axis {
  label: string;
  unit: string;
  values: [string, string];
  marks: Place[];
  log: boolean;
}

const fresh = (label: string, unit: string): Axis => ({ label, unit, values: ["", ""], marks: [], log: false });

/** A printed curve becomes a record: two places on each axis are marked, then the curve is followed with clicks. */
export function PrintedCurve({ onClose }: { onClose: () => void }) {
  const { pairing, set } = useBench("pairing", "set");
  const [picture, setPicture] = useState<{ address: string; name: string } | null>(null);
  const [x, setX] = useState(fresh("displacement", "mm"));
  const [y, setY] = useState(fresh("force", "kN"));
  const [points, setPoints] = useState<Place[]>([]);
  const image = useRef<HTMLImageElement>(null);
  const bring = useChange((body: Schemas["PrintedIn"]) => ask(api.POST("/api/tests/printed", { body })));
  const take = (e: ChangeEvent<HTMLInputElement>) => {
    const file = e.target.files?.[0];
    if (!file) return;
    const reader = new FileReader();
    reader.onload = () => {
      setPicture({ address: String(reader.result), name: file.name.replace(/\.[^.]*$/, "") });
      setX({ ...x, marks: [] });
      setY({ ...y, marks: [] });
      setPoints([]);
    };
    reader.readAsDataURL(file);
  };
  const marking = x.marks.length < 2 ? "x" : y.marks.length < 2 ? "y" : "curve";
  const click = (e: MouseEvent) => {
    const box = image.current!.getBoundingClientRect();
    const scale = image.current!.naturalWidth / box.width;
    const place: Place = [(e.clientX - box.left) * scale, (e.clientY - box.top) * scale];
    if (marking === "x") setX({ ...x, marks: [...x.marks, place] });
    else if (marking === "y") setY({ ...y, marks: [...y.marks, place] });
    else setPoints([...points, place]);
  };
  const back = () => {
    if (points.length) setPoints(points.slice(0, -1));
    else if (y.marks.length) setY({ ...y, marks: y.marks.slice(0, -1) });
    else setX({ ...x, marks: x.marks.slice(0, -1) });
  };
  const stated = (axis: Axis): Schemas["AxisMarksIn"] | null => {
    const [first, second] = axis.values.map(parse);
    if (axis.marks.length < 2 || first === null || second === null || !axis.label.trim()) return null;
    return {
      first: axis.marks[0]!,
      first_value: first!,
      second: axis.marks[1]!,
      second_value: second!,
      logarithmic: axis.log,
      label: axis.label.trim(),
      unit: axis.unit.trim(),
    };
  };
  const [onX, onY] = [stated(x), stated(y)];
  const done = () =>
    bring.mutate(
      { name: picture!.name, picture: picture!.address, x: onX!, y: onY!, points, pairing },
      {
        onSuccess: (made) => {
          set({ test: made.id, strata: true, tab: "loop" });
          onClose();
        },
      },
    );
  const say = {
    x: `Click the ${x.marks.length ? "second" : "first"} place of known value on the x axis.`,
    y: `Click the ${y.marks.length ? "second" : "first"} place of known value on the y axis.`,
    curve: points.length
      ? `${points.length} points. Go on along the curve, in order.`
      : "Follow the curve with clicks, in order.",
  }[marking];
  return (
    <Modal show onHide={onClose} size="lg" centered animation={false} aria-labelledby="printed-title">
      <Modal.Body>
        <h3 id="printed-title">A printed curve</h3>
        <div className="row-line">
          <input
            type="file"
            accept="image/png,image/jpeg"
            className="form-control form-control-sm"
            aria-label="Picture"
            data-testid="printed-file"
            onChange={take}
          />
        </div>
        {picture && (
          <>
            <div className="small-line" role="status" data-testid="printed-say">
              {say}
            </div>
            <div className="printed">
              {/* biome-ignore lint/a11y/useKeyWithClickEvents: a place in a picture is pointed at */}
              <img
                ref={image}
                src={picture.address}
                alt="The printed curve"
                onClick={click}
                data-testid="printed-picture"
              />
              <Marks image={image} axis={x} word="x" />
              <Marks image={image} axis={y} word="y" />
              <Dots image={image} places={points} />
            </div>
            <div className="printed-axes">
              <AxisFields word="x" axis={x} onChange={setX} />
              <AxisFields word="y" axis={y} onChange={setY} />
            </div>
          </>
        )}
        <Refused error={bring.error} />
        <div className="row-line actions">
          <button
            type="button"
            className="btn btn-primary btn-sm"
            disabled={!picture || !onX || !onY || points.length < 2 || bring.isPending}
            onClick={done}
          >
            Read it off
          </button>
          <button type="button" className="ghost" disabled={!x.marks.length} onClick={back}>
            Take the last click back
          </button>
          <button type="button" className="ghost" onClick={onClose}>
            Cancel
          </button>
        </div>
      </Modal.Body>
    </Modal>
  );
}

function AxisFields({ word, axis, onChange }: { word: string; axis: Axis; onChange: (a: Axis) => void }) {
  const field = (label: string, value: string, onSet: (v: string) => void) => (
    <label className="row-line">
      {label}
      <input
        className="form-control form-control-sm fig"
        aria-label={`${word} axis ${label}`}
        value={value}
        onChange={(e) => onSet(e.target.value)}
      />
    </label>
  );
  return (
    <fieldset className="use">
      <legend>{word} axis</legend>
      <div className="limits">
        {field("name", axis.label, (label) => onChange({ ...axis, label }))}
        {field("unit", axis.unit, (unit) => onChange({ ...axis, unit }))}
        {field("first mark", axis.values[0], (v) => onChange({ ...axis, values: [v, axis.values[1]] }))}
        {field("second mark", axis.values[1], (v) => onChange({ ...axis, values: [axis.values[0], v] }))}
      </div>
      <Switch
        id={`log-${word}`}
        label="printed logarithmic"
        on={axis.log}
        onSet={(log) => onChange({ ...axis, log })}
      />
    </fieldset>
  );
}

interface OnPicture {
  image: { current: HTMLImageElement | null };
}

function Marks({ image, axis, word }: OnPicture & { axis: Axis; word: string }) {
  return axis.marks.map((place, i) => (
    <At key={`${word}${i === 0 ? "first" : "second"}`} image={image} place={place} className="printed-mark">
      <span>
        {word}
        {i + 1}
      </span>
    </At>
  ));
}

const Dots = ({ image, places }: OnPicture & { places: Place[] }) =>
  places.map((place) => <At key={place.join()} image={image} place={place} className="printed-dot" />);

function At({
  image,
  place,
  className,
  children,
}: OnPicture & { place: Place; className: string; children?: ReactNode }) {
  const { naturalWidth, naturalHeight } = image.current ?? { naturalWidth: 1, naturalHeight: 1 };
  return (
    <span
      className={className}
      style={{ left: `${(100 * place[0]) / naturalWidth}%`, top: `${(100 * place[1]) / naturalHeight}%` }}
    >
      {children}
    </span>
  );
}

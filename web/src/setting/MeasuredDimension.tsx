/** The figures between two places that were asked for. */
import { useQuery } from "@tanstack/react-query";
import { useContext } from "react";
import { answer, api, type Figure, problemOf } from "../api/client";
import { Button, Words } from "../ui/choices";
import { formatAngle, formatLength } from "../ui/figures";
import { JobId, useShown, useUnits } from "../window/job";
import { askDimension } from "../window/keys";
import { type PickedSpot, useWindow } from "../window/store";
import { lineById } from "../window/things";

export function MeasuredDimension() {
  const asked = useWindow((state) => state.asked);
  return asked && <Sentence spots={asked} />;
}

function Sentence({ spots }: { spots: [PickedSpot, PickedSpot] }) {
  const job = useContext(JobId);
  const shown = useShown();
  const units = useUnits();
  const set = useWindow((state) => state.set);
  const body = (spot: PickedSpot) =>
    spot.place
      ? { line: spot.place.line, chainage: Math.max(0, spot.place.chainage), point: null }
      : { line: null, chainage: null, point: spot.point };
  const { data, error } = useQuery({
    queryKey: ["dimension", job, shown.revision, spots],
    queryFn: () =>
      answer<Figure[]>(
        api.POST("/api/jobs/{id}/dimension", {
          params: { path: { id: job } },
          body: { a: body(spots[0]), b: body(spots[1]) },
        }),
      ),
    retry: 0,
  });
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  const named = (spot: PickedSpot) =>
    spot.place
      ? `${lineById(shown, spot.place.line)?.name ?? "a line"} at ${formatLength(spot.place.chainage, units)}`
      : spot.point.map((mm) => formatLength(mm, units)).join("; ");
  return (
    <section
      aria-label="Dimension"
      className="absolute top-3 right-14 z-20 w-72 rounded-[4px] border border-edge bg-paper px-4 py-3 shadow"
    >
      <h2 className="font-semibold text-sm">Dimension</h2>
      <p className="mb-1.5 text-pencil text-sm">
        {named(spots[0])}
        <br />
        {named(spots[1])}
      </p>
      {error && <p className="text-red text-sm">{problemOf(error).detail}</p>}
      <dl className="grid grid-cols-[1fr_auto] gap-y-0.5 text-sm">
        {data?.map((one, index) => (
          <div key={one.name} className="contents">
            <dt className={index === 0 ? "font-medium" : "text-pencil"}>{one.name}</dt>
            <dd className={`figure text-right ${index === 0 ? "font-semibold" : ""}`}>
              {one.kind === "angle" ? formatAngle(one.value) : formatLength(one.value, fine)}
            </dd>
          </div>
        ))}
      </dl>
      <div className="mt-2 flex items-center gap-3">
        <Button onClick={() => set({ asked: null })}>Dismiss</Button>
        <Words onClick={askDimension}>Measure another</Words>
      </div>
    </section>
  );
}

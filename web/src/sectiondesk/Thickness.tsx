/** Thickness given to an outline that may be open: sheet folded, bar bent. What comes of it is seen before it is taken. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api, type OutlineDrawn, type OutlineThickened, problemOf } from "../api/client";
import { Button, Choice } from "../ui/choices";
import { LengthField, Setting, useForm } from "../ui/fields";

type Beside = "left" | "both" | "right";

export function Thickness({
  outline,
  closed,
  look,
  take,
  leave,
}: {
  outline: OutlineDrawn;
  closed: boolean;
  /** Is shown what comes of it. */
  look: (made: OutlineThickened | null) => void;
  take: (made: OutlineThickened) => void;
  leave: () => void;
}) {
  const { values, put, settled } = useForm({ thickness: 3 });
  const [beside, setBeside] = useState<Beside>("both");
  const [corners, setCorners] = useState<"mitred" | "rounded">("mitred");
  const [ends, setEnds] = useState<"square" | "round">("square");
  const body = { outline, thickness: values.thickness, beside, corners, ends };
  const asked = useQuery({
    queryKey: ["thickened", body],
    queryFn: () => answer<OutlineThickened>(api.POST("/api/sections/thickened", { body })),
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const made = asked.error || asked.isPlaceholderData ? null : (asked.data ?? null);
  useEffect(() => {
    look(made);
    return () => look(null);
  }, [made, look]);
  return (
    <div className="grid gap-1.5">
      <LengthField
        label="Thickness"
        mm={values.thickness}
        take={async (thickness) => {
          put({ thickness });
          return null;
        }}
      />
      <Setting label="Lies">
        <Choice
          label="Lies"
          value={beside}
          ways={[
            ["left", "left"],
            ["both", "both sides"],
            ["right", "right"],
          ]}
          choose={setBeside}
          plain
        />
      </Setting>
      <Setting label="Corners">
        <Choice
          label="Corners"
          value={corners}
          ways={[
            ["mitred", "mitred"],
            ["rounded", "rounded"],
          ]}
          choose={setCorners}
          plain
        />
      </Setting>
      {!closed && (
        <Setting label="Ends">
          <Choice
            label="Ends"
            value={ends}
            ways={[
              ["square", "square"],
              ["round", "round"],
            ]}
            choose={setEnds}
            plain
          />
        </Setting>
      )}
      {asked.error && (
        <p role="alert" className="text-red text-sm">
          {problemOf(asked.error).detail}
        </p>
      )}
      <p className="flex gap-2 pt-1">
        <Button
          strong
          disabled={!made}
          onClick={async () => {
            if ((await settled()) && made) take(made);
          }}
        >
          Apply the thickness
        </Button>
        <Button onClick={leave}>Cancel</Button>
      </p>
    </div>
  );
}

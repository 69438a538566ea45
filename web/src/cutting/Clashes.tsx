/** Runs that are in one another's place: looked for when it is asked, solid by solid. */
import { useQuery } from "@tanstack/react-query";
import { useContext } from "react";
import { acceptances } from "../api/acceptances";
import { answer, api, type CheckFigures, problemOf } from "../api/client";
import { AcceptedCheck, OneCheck } from "../card/Checks";
import { Button } from "../ui/choices";
import { count } from "../ui/figures";
import { Modal } from "../ui/Modal";
import { JobId, useShown } from "../window/job";
import { useWindow } from "../window/store";

export function Clashes({ close }: { close: () => void }) {
  const job = useContext(JobId);
  const shown = useShown();
  const { data, error } = useQuery({
    queryKey: ["clashes", job, shown.revision],
    queryFn: ({ signal }) =>
      answer<CheckFigures[]>(api.GET("/api/jobs/{id}/clashes", { params: { path: { id: job } }, signal })),
    retry: 0,
    staleTime: Number.POSITIVE_INFINITY,
    // While an acceptance is on its way the list stays.
    placeholderData: (before) => before,
  });
  const acceptedAs = acceptances(shown.job.accepted);
  const reasonOf = (check: CheckFigures) => acceptedAs(check)?.reason;
  const open = (data ?? []).filter((check) => reasonOf(check) === undefined);
  const accepted = (data ?? []).filter((check) => reasonOf(check) !== undefined);
  const goTo = (check: CheckFigures) => {
    const state = useWindow.getState();
    close();
    state.select([check.thing]);
    state.show(state.drawing);
    state.set({ look: check.point as [number, number, number] });
  };
  return (
    <Modal title="Runs that overlap" close={close} wide>
      <p role="status" className="text-pencil text-sm">
        {error
          ? problemOf(error).detail
          : data
            ? open.length
              ? `${count(open.length, "place")}, the largest first.`
              : `No two runs overlap${accepted.length ? ", besides what is accepted" : ""}.`
            : "Comparing the runs solid by solid …"}
      </p>
      <div className="max-h-[52vh] overflow-y-auto">
        {open.map((check, index) => (
          <OneCheck key={`${index} ${check.key}`} check={check} goTo={goTo} />
        ))}
        {accepted.map((check) => (
          <AcceptedCheck
            key={check.key}
            check={check}
            known={acceptedAs(check)?.check}
            reason={reasonOf(check) ?? ""}
            goTo={goTo}
          />
        ))}
      </div>
      <div className="mt-4 flex justify-end">
        <Button onClick={close}>Close</Button>
      </div>
    </Modal>
  );
}

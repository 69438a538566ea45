/** The checks of what is selected: what is wrong, where, what mends it; accepted with a reason, or taken back. */
import { useState } from "react";
import type { CheckFigures } from "../api/client";
import { Button, Words } from "../ui/choices";
import { useChanges, useSentence, useShown } from "../window/job";
import { useWindow } from "../window/store";
import { checksOf } from "../window/things";

export function Checks({ ids }: { ids: string[] }) {
  const shown = useShown();
  const on = new Set(ids);
  const accepted = shown.accepted.filter(({ check }) => on.has(check.thing));
  return (
    <>
      {ids
        .flatMap((id) => checksOf(shown, id))
        .map((check, index) => (
          <OneCheck key={`${index} ${check.key}`} check={check} />
        ))}
      {accepted.map(({ check, reason, known }) => (
        <AcceptedCheck key={`${check.thing} ${check.key}`} check={check} reason={reason} known={known} />
      ))}
    </>
  );
}

const bringIntoView = (check: CheckFigures) =>
  useWindow.getState().set({ look: check.point as [number, number, number], piece: check.piece ?? null });

export function OneCheck({
  check,
  goTo = bringIntoView,
}: {
  check: CheckFigures;
  goTo?: (check: CheckFigures) => void;
}) {
  const sentence = useSentence();
  const { edit } = useChanges();
  const [reason, setReason] = useState<string | null>(null);
  const [wrong, setWrong] = useState("");
  const accept = async () => {
    const words = reason?.trim();
    if (!words) return setWrong("Say why it is all right: whoever reads the list later wants to know.");
    const accepted = { thing: check.thing, check: check.key, what: check.said, reason: words };
    const problem = await edit([{ kind: "accept_check", accepted }]);
    if (problem) setWrong(problem.detail);
  };
  return (
    <div
      className={`mt-2 flex gap-2.5 border-l-[3px] px-3 py-2 text-sm ${
        check.severity === "fault" ? "border-red bg-red-wash" : "border-wax bg-wax-wash"
      }`}
    >
      <b className={check.severity === "fault" ? "text-red" : "text-wax-deep"}>
        {check.severity === "fault" ? "!" : "?"}
      </b>
      <div className="min-w-0 flex-1">
        {sentence(check.what)} {sentence(check.remedy)}{" "}
        <span className="whitespace-nowrap">
          <Words onClick={() => goTo(check)}>Go there</Words> ·{" "}
          <Words onClick={() => setReason(reason === null ? "" : null)}>Accept</Words>
        </span>
        <Mends check={check} />
        {reason !== null && (
          <form
            className="mt-1.5"
            onSubmit={(event) => {
              event.preventDefault();
              void accept();
            }}
          >
            <label className="block text-pencil text-xs">
              Why is it all right?
              <input
                // biome-ignore lint/a11y/noAutofocus: it was asked for just now
                autoFocus
                value={reason}
                maxLength={500}
                onChange={(event) => setReason(event.target.value)}
                onKeyDown={(event) => event.key === "Escape" && setReason(null)}
                className="mt-0.5 h-7 w-full rounded-[3px] border border-edge bg-paper px-2 text-base text-ink"
              />
            </label>
            {wrong && (
              <p role="alert" className="text-red text-xs">
                {wrong}
              </p>
            )}
            <div className="mt-1 flex justify-end">
              <Button type="submit">Accept it</Button>
            </div>
          </form>
        )}
      </div>
    </div>
  );
}

/** What can be done about a check there and then. */
function Mends({ check }: { check: CheckFigures }) {
  const { edit } = useChanges();
  if (!check.mends.length) return null;
  return (
    <ul aria-label="What mends it" className="mt-1 flex flex-wrap gap-x-3 gap-y-0.5">
      {check.mends.map((mend) => (
        <li key={mend.action}>
          <Words onClick={() => void edit([mend.edit])}>{mend.action}</Words>
        </li>
      ))}
    </ul>
  );
}

export function AcceptedCheck({
  check,
  reason,
  known = check.key,
  goTo = bringIntoView,
}: {
  check: CheckFigures;
  reason: string;
  /** What it was accepted by. */
  known?: string | undefined;
  goTo?: (check: CheckFigures) => void;
}) {
  const sentence = useSentence();
  const { edit } = useChanges();
  const withdraw = () => void edit([{ kind: "withdraw_acceptance", thing: check.thing, check: known }]);
  return (
    <div className="mt-2 flex gap-2.5 border-rule border-l-[3px] px-3 py-2 text-pencil text-sm">
      <b aria-hidden>✓</b>
      <span className="min-w-0 flex-1">
        Accepted: {sentence(check.what)} <span className="text-ink">“{reason}”</span>{" "}
        <span className="whitespace-nowrap">
          <Words onClick={() => goTo(check)}>Go there</Words> · <Words onClick={withdraw}>Take back</Words>
        </span>
      </span>
    </div>
  );
}

/** How the job's saw is set: in which steps, where its stop measures, how cornices are held, what a cut takes and what is trimmed. */
import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { Pick } from "../ui/choices";
import { LengthField, Setting } from "../ui/fields";
import { formatLength } from "../ui/figures";
import { useChanges, useShown, useUnits } from "../window/job";

const STEPS: [string, string][] = [
  ["0", "as they are"],
  ["0.1", "in steps of 0.1°"],
  ["0.25", "in steps of 0.25°"],
  ["0.5", "in steps of 0.5°"],
  ["1", "in steps of 1°"],
];
const STOPS: ["long" | "short" | "fence", string][] = [
  ["long", "to the long point"],
  ["short", "to the short point"],
  ["fence", "along the fence"],
];

export function SawSettings() {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const { kerf = 0, trim = 0, step = 0, stop = "long", sprung = false } = shown.job.saw ?? {};
  const set = (changes: object) => edit([{ kind: "set_saw", changes }]);
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  // What is otherwise than at first is in sight.
  const words = [
    step > 0 ? `${step}° steps` : "",
    stop === "long" ? "" : (STOPS.find(([way]) => way === stop)?.[1] ?? ""),
    kerf > 0 ? `cut ${formatLength(kerf, fine)}` : "",
    trim > 0 ? `trim 2 × ${formatLength(trim, fine)}` : "",
  ].filter(Boolean);
  return (
    <Popover className="relative min-w-0 shrink">
      <PopoverButton
        title={words.join(", ")}
        className="flex h-7 max-w-52 cursor-pointer items-center gap-1 rounded-[3px] border border-edge bg-paper px-2 hover:border-pencil"
      >
        <span className="truncate">Saw{words.length > 0 && `: ${words.join(", ")}`}</span> <span aria-hidden>▾</span>
      </PopoverButton>
      <PopoverPanel
        anchor="bottom end"
        className="z-30 mt-1 w-80 rounded-[3px] border border-edge bg-paper px-3 py-2 shadow-lg focus:outline-none"
      >
        <Setting label="Angles are set">
          <Pick
            label="Steps of the saw"
            value={String(step)}
            ways={
              STEPS.some(([one]) => one === String(step)) ? STEPS : [...STEPS, [String(step), `in steps of ${step}°`]]
            }
            choose={(step) => void set({ step: Number(step) })}
          />
        </Setting>
        <Setting label="The stop measures">
          <Pick label="The stop measures" value={stop} ways={STOPS} choose={(stop) => void set({ stop })} />
        </Setting>
        {shown.job.sections?.some((section) => section.bed?.kind === "edge") && (
          <Setting label="Cornices are held">
            <Pick
              label="Cornices are held"
              value={sprung ? "sprung" : "lying"}
              ways={[
                ["lying", "on the back"],
                ["sprung", "against the fence"],
              ]}
              choose={(way) => void set({ sprung: way === "sprung" })}
            />
          </Setting>
        )}
        <LengthField label="A cut takes" mm={kerf} take={(kerf) => set({ kerf })} />
        <LengthField label="Trimmed off each end" mm={trim} take={(trim) => set({ trim })} />
        <p className="mt-1 text-pencil text-sm">
          The stop is set longer by what is trimmed off later; both are in what is cut from stock. Joints leave room for
          it: a piece and what is trimmed off both its ends is no longer than a bar.
        </p>
      </PopoverPanel>
    </Popover>
  );
}

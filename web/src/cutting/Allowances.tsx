/** What the saw takes at a cut, and what pieces are sawn longer to be trimmed. */
import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { LengthField } from "../ui/fields";
import { formatLength } from "../ui/figures";
import { useChanges, useShown, useUnits } from "../window/job";

export function Allowances() {
  const shown = useShown();
  const units = useUnits();
  const { edit } = useChanges();
  const { kerf = 0, trim = 0 } = shown.job.saw ?? {};
  const set = (changes: object) => edit([{ kind: "set_saw", changes }]);
  const fine = { ...units, fineness: units.system === "ft-in" ? 1 / 32 : 0.1 };
  const words = [
    kerf > 0 ? `saw ${formatLength(kerf, fine)}` : "",
    trim > 0 ? `trim 2 × ${formatLength(trim, fine)}` : "",
  ].filter(Boolean);
  return (
    <Popover className="relative">
      <PopoverButton className="h-7 cursor-pointer rounded-[3px] border border-edge bg-paper px-2 hover:border-pencil">
        {words.length ? words.join(", ") : "Allowances"} <span aria-hidden>▾</span>
      </PopoverButton>
      <PopoverPanel
        anchor="bottom end"
        className="z-30 mt-1 w-72 rounded-[3px] border border-edge bg-paper px-3 py-2 shadow-lg focus:outline-none"
      >
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

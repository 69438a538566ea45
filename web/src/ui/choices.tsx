/** Choosing and acting: one of a few ways, one of many, yes or no, words and buttons. */
import { Listbox, ListboxButton, ListboxOption, ListboxOptions, Radio, RadioGroup } from "@headlessui/react";
import { type ReactNode, useState } from "react";

/** One of a few ways: the chosen one is beeswax, what acts here. */
export function Choice<T extends string>({
  label,
  value,
  ways,
  choose,
  plain,
}: {
  label: string;
  value: T | null;
  ways: [T, string][];
  choose: (way: T) => void;
  plain?: boolean;
}) {
  return (
    <RadioGroup
      value={value}
      onChange={(way) => way !== null && choose(way)}
      aria-label={label}
      className="flex w-full"
    >
      {ways.map(([way, words]) => (
        <Radio
          key={way}
          value={way}
          className={({ checked }) =>
            `-ml-px h-7 flex-1 cursor-pointer whitespace-nowrap border border-edge px-2 text-center text-sm leading-[26px] first:ml-0 first:rounded-l-[3px] last:rounded-r-[3px] ${
              checked
                ? plain
                  ? "bg-ink text-paper"
                  : "bg-wax-wash font-medium text-ink shadow-[inset_0_-2px_0_var(--color-wax)]"
                : "bg-paper text-pencil hover:text-ink"
            }`
          }
        >
          {words}
        </Radio>
      ))}
    </RadioGroup>
  );
}

export function Pick<T extends string>({
  label,
  value,
  ways,
  choose,
  various,
  wide,
}: {
  label: string;
  value: T | null;
  ways: [T, string][];
  choose: (way: T) => void;
  various?: string;
  wide?: boolean;
}) {
  const words = ways.find(([way]) => way === value)?.[1] ?? various ?? "choose";
  return (
    <Listbox value={value} onChange={(way) => way !== null && choose(way)}>
      <ListboxButton
        aria-label={`${label}: ${words}`}
        className={`inline-flex h-7 items-center rounded-[3px] border border-edge bg-paper px-2 text-sm hover:border-pencil ${wide ? "w-full justify-between" : "max-w-[170px]"}`}
      >
        <span className="truncate">{words}</span>{" "}
        <span aria-hidden className="ml-1 text-pencil">
          ▾
        </span>
      </ListboxButton>
      <ListboxOptions
        anchor="bottom end"
        className="z-50 max-h-80 min-w-40 overflow-auto rounded-[3px] border border-edge bg-paper py-1 text-sm shadow-lg [--anchor-gap:2px] focus:outline-none"
      >
        {ways.map(([way, text]) => (
          <ListboxOption
            key={way}
            value={way}
            className="cursor-pointer px-3 py-1 data-focus:bg-chalk-wash data-selected:font-semibold"
          >
            {text}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  );
}

export function Tick({
  label,
  checked,
  set,
  disabled,
}: {
  label: string;
  checked: boolean;
  set: (on: boolean) => unknown;
  disabled?: boolean;
}) {
  // What was wanted shows at once; what came of it shows when the service has answered.
  const [wanted, setWanted] = useState<boolean | null>(null);
  return (
    <label className={`flex min-h-7 items-center gap-2 text-sm ${disabled ? "text-pencil" : ""}`}>
      <input
        type="checkbox"
        className="size-4 accent-chalk"
        checked={wanted ?? checked}
        disabled={disabled}
        onChange={async (event) => {
          setWanted(event.target.checked);
          await set(event.target.checked);
          setWanted(null);
        }}
      />
      {label}
    </label>
  );
}

export function Words({
  children,
  onClick,
  disabled,
  label,
  title,
}: {
  children: ReactNode;
  onClick: () => void;
  disabled?: boolean;
  /** What it does, where its words alone do not say to what. */
  label?: string;
  title?: string;
}) {
  return (
    <button
      type="button"
      title={title}
      aria-label={label}
      disabled={disabled}
      onClick={onClick}
      className="cursor-pointer text-chalk-deep text-sm underline decoration-1 underline-offset-2 hover:text-ink disabled:cursor-default disabled:text-pencil disabled:no-underline"
    >
      {children}
    </button>
  );
}

export function Button({
  children,
  onClick,
  label,
  strong,
  disabled,
  type = "button",
}: {
  children: ReactNode;
  onClick?: () => void;
  /** What it does, where its sign alone does not say so. */
  label?: string;
  strong?: boolean;
  disabled?: boolean;
  type?: "button" | "submit";
}) {
  return (
    <button
      type={type}
      aria-label={label}
      disabled={disabled}
      onClick={onClick}
      className={`h-7 cursor-pointer whitespace-nowrap rounded-[3px] border px-3 text-sm disabled:cursor-default disabled:opacity-50 ${
        strong ? "border-ink bg-ink text-paper hover:bg-pencil" : "border-edge bg-paper text-ink hover:border-pencil"
      }`}
    >
      {children}
    </button>
  );
}

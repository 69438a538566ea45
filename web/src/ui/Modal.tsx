import { Dialog, DialogBackdrop, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

/** A sheet of paper laid over the bench; Escape or a click beside it puts it away. */
export function Modal({
  title,
  close,
  children,
  wide,
  widest,
}: {
  title: string;
  close: () => void;
  children: ReactNode;
  wide?: boolean;
  widest?: boolean;
}) {
  return (
    <Dialog open onClose={close} className="relative z-40 outline-none">
      <DialogBackdrop className="fixed inset-0 bg-ink/30" />
      <div className="fixed inset-0 grid place-items-center overflow-auto p-6">
        <DialogPanel
          className={`${widest ? "w-[1120px]" : wide ? "w-[720px]" : "w-[460px]"} max-w-full rounded-[4px] border border-edge bg-bench p-5 shadow-xl`}
        >
          <DialogTitle className="mb-3 font-semibold text-lg">{title}</DialogTitle>
          {children}
        </DialogPanel>
      </div>
    </Dialog>
  );
}

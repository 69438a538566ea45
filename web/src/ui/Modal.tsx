import { Dialog, DialogBackdrop, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";
import { Button } from "./choices";

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

/** The foot of a dialog that makes something: what is wrong with what was asked, a way out, and the act. */
export function ModalFoot({
  wrong,
  close,
  act,
  words,
  disabled = false,
}: {
  wrong: string;
  close: () => void;
  act: () => void;
  words: string;
  disabled?: boolean;
}) {
  return (
    <>
      {wrong && (
        <p role="alert" className="mt-2 text-red text-sm">
          {wrong}
        </p>
      )}
      <div className="mt-5 flex justify-end gap-2">
        <Button onClick={close}>Cancel</Button>
        <Button strong disabled={disabled} onClick={act}>
          {words}
        </Button>
      </div>
    </>
  );
}

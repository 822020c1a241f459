import { Dialog as HDialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { X } from 'lucide-react';
import type { ReactNode } from 'react';
import { IconButton } from './index.tsx';

/** What lies behind something on the screen, beside it: the screen stays in sight. Escape and a click beside it close it. */
export function SideSheet({
  open,
  onClose,
  title,
  children,
  foot,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
  /** What can be done with it, always in sight. */
  foot?: ReactNode;
}) {
  return (
    <HDialog open={open} onClose={onClose} className="fixed inset-0 z-40 flex justify-end bg-ink/20">
      <DialogPanel className="flex h-full w-full max-w-md flex-col border-l border-line bg-sheet">
        <div className="flex items-start justify-between gap-3 border-b border-line px-5 py-4">
          <DialogTitle className="font-head text-[18px] leading-6 font-bold">{title}</DialogTitle>
          <IconButton name="Close" onClick={onClose}>
            <X size={16} />
          </IconButton>
        </div>
        <div className="min-h-0 flex-1 overflow-y-auto px-5 py-4">{children}</div>
        {foot && <div className="border-t border-line bg-paper-2 px-5 py-3">{foot}</div>}
      </DialogPanel>
    </HDialog>
  );
}

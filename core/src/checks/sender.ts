import { at, type Check, type Finding } from './check.ts';
import { liveEmails } from './texts.ts';

export const defaultSender: Check = {
  id: 'default-sender',
  run: (sequence, { senders }) =>
    liveEmails(sequence).flatMap((step): Finding[] => {
      const sender = step.email.sender
        ? senders.find((s) => s.id === step.email.sender)
        : senders.find((s) => s.isDefault);
      const base = { check: 'default-sender', place: at(step.id, null, 'sender') };
      if (!sender)
        return [
          {
            ...base,
            level: 'error' as const,
            message: `“${step.name}” has no sender.`,
            fix: 'Choose who it comes from.',
          },
        ];
      return sender.untouched
        ? [
            {
              ...base,
              level: 'warning' as const,
              message: `“${step.name}” still goes out from the sender that came with the workspace.`,
              fix: 'Choose or fill in a sender of your own.',
            },
          ]
        : [];
    }),
};

import { emailCheck } from './check.ts';

export const defaultSender = emailCheck('default-sender', 'warning', ({ email, name }, { senders }) => {
  const sender = email.sender ? senders.find((s) => s.id === email.sender) : senders.find((s) => s.isDefault);
  if (!sender)
    return [{ part: 'sender', level: 'error', message: `“${name}” has no sender.`, fix: 'Choose who it comes from.' }];
  return sender.untouched
    ? [
        {
          part: 'sender',
          message: `“${name}” still goes out from the sender that came with the workspace.`,
          fix: 'Choose or fill in a sender of your own.',
        },
      ]
    : [];
});

export const replyAddress = emailCheck('reply-address', 'error', ({ id, email }) =>
  email.replyTo && !/^[^\s@]+@[^\s@.]+(?:\.[^\s@.]+)+$/.test(email.replyTo)
    ? [
        {
          part: 'replyTo',
          message: `“${email.replyTo}” is no email address that answers could go to.`,
          fix: 'Write it in full, or leave it empty: then answers go to the sender.',
          repair: {
            label: 'Answers to the sender',
            commands: [{ type: 'email.set', step: id, field: 'replyTo', value: null }],
          },
        },
      ]
    : [],
);

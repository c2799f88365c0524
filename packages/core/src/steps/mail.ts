import { z } from 'zod';
import type { Mistake } from '../errors/errors.js';
import { type Json, pointer } from '../json/json.js';
import { defineKind } from './kind.js';

const address = z.union([z.string().min(3), z.array(z.string().min(3)).min(1)]);

const config = z.strictObject({
  to: address.meta({ title: 'To', description: 'One or more addresses', examples: ['ines@alder-ridge.example'] }),
  cc: address.optional().meta({ title: 'Cc', description: 'Recipients of a copy' }),
  from: z.string().optional().meta({ title: 'From', description: 'The sender; the workspace default if empty' }),
  subject: z.string().min(1).meta({ title: 'Subject', description: 'Subject of the mail' }),
  text: z.string().meta({ title: 'Text', description: 'The mail as plain text', form: 'long' }),
  html: z
    .string()
    .optional()
    .meta({ title: 'HTML', description: 'The mail as HTML, in addition to the plain text', form: 'long' }),
});

/** `name@host`, or with words in front as RFC 5322 has it. */
const ADDRESS = /^(?:[^<>@]*<)?[^\s<>@,;]+@[^\s<>@,;]+>?$/;

function recipientMistakes(given: Json | undefined, part: string): Mistake[] {
  const several = Array.isArray(given);
  return (several ? given : [given]).flatMap((one, index) =>
    typeof one !== 'string' || one.includes('${') || ADDRESS.test(one.trim())
      ? []
      : [
          {
            at: pointer(several ? [part, index] : [part]),
            message: `"${one}" is not an email address`,
            hint: 'Use name@host; a list for several.',
          },
        ],
  );
}

const list = (value: string | string[] | undefined) => (value === undefined ? [] : [value].flat());

export const mail = defineKind<z.infer<typeof config>>({
  name: 'mail',
  title: 'Send a mail',
  about: 'Sends a mail over SMTP.',
  config,
  repeatable: () => false,
  effects: () => ({ writes: true, outside: true, repeatable: false }),
  branches: () => [],
  sentence: (raw) => ['Mail ', { value: raw.to ?? '' }, ' about ', { value: raw.subject ?? '' }],
  output: () => ({ id: 'string', to: 'list<string>', refused: 'list<string>' }),
  references: () => ({}),
  mistakes: (raw) => ['to', 'cc'].flatMap((part) => recipientMistakes(raw[part], part)),
  run: async ({ to, cc, from, subject, text, html }, { run: { ports }, signal }) => {
    const recipients = list(to);
    const { id, refused = [] } = await ports.mail.send(
      { from: from ?? null, to: recipients, cc: list(cc), subject, text, html: html ?? null },
      { signal },
    );
    // Some mail servers take a mail for some of its recipients alone.
    return { output: { id, to: recipients.filter((one) => !refused.includes(one)), refused } };
  },
});

import { argumentsOf, type FlagRule, quoteOf } from '../flag.js';

const ONLY_READS =
  /\b(?:read[- ]only|only reads?|changes nothing|does not (?:change|modify|write)|no side[- ]effects?|safe to call)\b/i;
const DOES = /^(?:delete|remove|cancel|send|pay|book|create|update|write|drop|purge|transfer|schedule)(?=[_\-A-Z]|$)/;

export const promises: FlagRule = {
  rule: 'promises',
  about: 'Claims that neither annotations nor schema support.',
  holds: false,
  look: (tool) => {
    const { annotations = {}, description = '' } = tool;
    const found = ONLY_READS.exec(description);
    const verb = DOES.exec(tool.name)?.[0];
    const changes = annotations.readOnlyHint === false || annotations.destructiveHint === true;
    return [
      ...(found && changes
        ? [
            {
              at: 'description',
              says: 'The description says read-only, but the annotations say that the tool changes data',
              quote: quoteOf(description, found.index, found[0].length),
            },
          ]
        : []),
      ...(verb && annotations.readOnlyHint === true && argumentsOf(tool).length > 0
        ? [
            {
              at: 'annotations',
              says: `The description says read-only, but the tool is named ${tool.name}`,
              quote: tool.name,
            },
          ]
        : []),
    ];
  },
};

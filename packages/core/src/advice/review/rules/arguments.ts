import { eachTool, type ReviewedTool, type ReviewRule } from '../suggestion.js';
import { type Argument, argumentsOf, describeArgument, wordsOf } from '../words.js';

export const undescribedArgument: ReviewRule = {
  code: 'argument_undescribed',
  about: 'An argument without a description.',
  look: eachTool(({ name, inputSchema }) =>
    argumentsOf(inputSchema).map((argument) => {
      const description = describeArgument(argument);
      return (
        argument.description === '' && {
          weight: argument.required ? ('hurts' as const) : ('could be better' as const),
          argument: argument.name,
          title: `"${argument.name}" of "${name}" has no description`,
          why: 'A model has only the name to go by, and often gets the format wrong.',
          instead: `Describe its meaning and format. Suggested: “${description}”`,
          fix: { argument: argument.name, description },
        }
      );
    }),
  ),
};

const QUOTED = /["'`“”]([\w -]{1,40})["'`“”]/g;

/** The choices that a description lists in its text, if it does. */
function choicesIn(text: string): string[] {
  const start =
    /\b(?:one of|either|must be|can be|allowed values?(?: are)?|options?(?: are)?|values?)\b:?\s*(.+)/i.exec(text);
  const rest = start?.[1]?.split(/[.;\n]/)[0] ?? '';
  const quoted = [...(start?.[1] ?? text).matchAll(QUOTED)].map((match) => match[1]!);
  if (quoted.length >= 2) return [...new Set(quoted)];
  const parts = rest
    .split(/,|\||\/|\bor\b|\band\b/i)
    .map((part) => part.trim())
    .filter(Boolean);
  return parts.length >= 2 && parts.length <= 20 && parts.every((part) => /^[\p{L}\p{N}_-]{1,40}$/u.test(part))
    ? parts
    : [];
}

export const choicesInProse: ReviewRule = {
  code: 'choices_in_prose',
  about: 'The allowed values of an argument are listed in its description, not in its schema.',
  look: eachTool(({ name, inputSchema }) =>
    argumentsOf(inputSchema).map(({ name: argument, schema, description }) => {
      if (schema.type !== 'string' || schema.enum !== undefined || schema.const !== undefined) return false;
      const choices = choicesIn(description);
      return (
        choices.length > 0 && {
          weight: 'hurts',
          argument,
          title: `"${argument}" of "${name}" lists its allowed values in its description only`,
          why: 'A model may send other values or another spelling. A schema restricts it to the list.',
          instead: `Add an enum: ${choices.join(', ')}.`,
          fix: { argument, schema: { ...schema, enum: choices } },
        }
      );
    }),
  ),
};

const MACHINE = /(^|_)(id|uuid|guid|token|session|hash|key|cursor|ref)$/;

/** Whether another tool of the list seems to hand out such a value. */
const handedOut = ({ name }: Argument, tool: ReviewedTool, all: readonly ReviewedTool[]) => {
  const stem = wordsOf(name.replaceAll('_', ' ')).filter((word) => !/^(id|uuid|guid|token|hash|key|ref)$/.test(word));
  if (stem.length === 0) return all.length > 1;
  return all.some(
    (other) =>
      other !== tool &&
      stem.some((word) =>
        wordsOf(
          `${other.name.replaceAll('_', ' ')} ${other.description} ${JSON.stringify(other.outputSchema ?? '')}`,
        ).some((found) => found === word || found === `${word}s`),
      ),
  );
};

export const unknowableArgument: ReviewRule = {
  code: 'argument_unknowable',
  about: 'A required argument whose value a model cannot know, such as an ID that no listed tool returns.',
  look: eachTool((tool, all) =>
    argumentsOf(tool.inputSchema).map(
      (argument) =>
        argument.required &&
        MACHINE.test(argument.name) &&
        argument.schema.enum === undefined &&
        !handedOut(argument, tool, all) && {
          weight: 'hurts',
          argument: argument.name,
          title: `"${tool.name}" requires "${argument.name}", and no listed tool returns its value`,
          why: 'A model invents a value or gives up.',
          instead: `Set the argument yourself, for example from the key's caller ("set: \${ caller.${argument.name} }"), or add a tool that finds the value.`,
          fix: null,
        },
    ),
  ),
};

import { eachTool, type Found, type ReviewedTool, type ReviewRule } from '../suggestion.js';
import { argumentsOf, listed, plainName, wordsOf } from '../words.js';

/** Fewer words than this cannot say what a tool does and when to use it. */
const FEWEST = 6;
/** Some models cut what is longer. */
const LONGEST = 1024;

/** What can be said of a tool by what is known of it. */
function proposed({ name, title, description, inputSchema, readOnly }: ReviewedTool): string {
  const start =
    description && wordsOf(description).join() !== wordsOf(name).join() ? description : title || plainName(name);
  const takes = argumentsOf(inputSchema).map((argument) => argument.name.replaceAll('_', ' '));
  return [
    /[.!?]$/.test(start) ? start : `${start}.`,
    takes.length > 0 && `Takes ${listed(takes)}.`,
    readOnly === true && 'Read-only; changes nothing.',
    readOnly === false && 'Changes data; call it only when the user asks for it.',
  ]
    .filter(Boolean)
    .join(' ');
}

export const missingDescription: ReviewRule = {
  code: 'description_missing',
  about: 'A tool without a description, or one that only repeats its name.',
  look: eachTool((tool) => {
    const words = wordsOf(tool.description);
    const repeats = words.join() === wordsOf(tool.name.replaceAll('_', ' ')).join();
    return [
      (words.length === 0 || repeats) && {
        weight: 'hurts',
        argument: null,
        title:
          words.length === 0
            ? `"${tool.name}" has no description`
            : `The description of "${tool.name}" only repeats its name`,
        why: 'A model can only guess what the tool does and when to use it.',
        instead: `Describe what the tool does, when to use it and what it returns. Suggested: “${proposed(tool)}”`,
        fix: { description: proposed(tool) },
      },
    ];
  }),
};

export const shortDescription: ReviewRule = {
  code: 'description_short',
  about: `A description of fewer than ${FEWEST} words.`,
  look: eachTool((tool) => {
    const words = wordsOf(tool.description);
    return [
      words.length > 0 &&
        words.length < FEWEST &&
        words.join() !== wordsOf(tool.name.replaceAll('_', ' ')).join() && {
          weight: 'could be better',
          argument: null,
          title: `The description of "${tool.name}" has only ${words.length} word${words.length === 1 ? '' : 's'}`,
          why: 'A model cannot tell when to use the tool, so it calls it at the wrong time or not at all.',
          instead: `Say when to use the tool and what it changes. Suggested: “${proposed(tool)}”`,
          fix: { description: proposed(tool) },
        },
    ];
  }),
};

export const longDescription: ReviewRule = {
  code: 'description_long',
  about: `A description of more than ${LONGEST} characters.`,
  look: eachTool((tool) => [
    tool.description.length > LONGEST && {
      weight: 'could be better',
      argument: null,
      title: `The description of "${tool.name}" has ${tool.description.length} characters`,
      why: `Some models truncate descriptions over ${LONGEST} characters, and every request pays for them.`,
      instead:
        'Keep what helps a model choose the tool. Move argument details to the arguments, and general rules to the instructions.',
      fix: null,
    },
  ]),
};

export const sameDescription: ReviewRule = {
  code: 'description_same',
  about: 'Two tools with the same description.',
  look: (tools) => {
    const groups = new Map<string, ReviewedTool[]>();
    for (const tool of tools) {
      const words = wordsOf(tool.description).join();
      const group = groups.get(words);
      if (group) group.push(tool);
      else if (words !== '') groups.set(words, [tool]);
    }
    return [...groups.values()].flatMap((group) =>
      group.length < 2 ? [] : group.map((tool, index) => sameAs(tool, group[index === 0 ? 1 : 0]!)),
    );
  },
};

function sameAs(tool: ReviewedTool, twin: ReviewedTool): Found {
  const description = `${plainName(tool.name)}: ${tool.description}`;
  return {
    weight: 'hurts',
    tool: tool.name,
    argument: null,
    title: `"${tool.name}" and "${twin.name}" have the same description`,
    why: 'A model can tell them apart only by name.',
    instead: `Begin each with what sets it apart, such as “${description}”`,
    fix: { description },
  };
}

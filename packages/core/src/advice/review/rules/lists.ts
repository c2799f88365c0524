import { estimateTokens } from '../../../tools/tokens.js';
import { asSent } from '../sent.js';
import { eachTool, type ReviewRule } from '../suggestion.js';
import { argumentsOf, wordsOf } from '../words.js';

/** More than this and models begin to choose wrongly. */
const MOST_TOOLS = 20;
/** About as much as a longer conversation; it is paid for with every request. */
const MOST_TOKENS = 6000;

/** How alike two texts are, from 0 to 1: the share of words they have in common. */
function likeness(a: ReadonlySet<string>, b: ReadonlySet<string>): number {
  if (a.size === 0 || b.size === 0) return 0;
  let both = 0;
  for (const word of a) if (b.has(word)) both++;
  return both / (a.size + b.size - both);
}

/** From so much on, two descriptions say nearly the same. */
const ALIKE = 0.7;
/** Maximum number of compared pairs: all of two hundred tools. */
const MOST_PAIRS = 20_000;

export const twins: ReviewRule = {
  code: 'tools_alike',
  about: 'Two tools that a model cannot tell apart: nearly the same description and the same arguments.',
  look: (tools) => {
    const known = tools.map((tool) => ({
      tool,
      shape: JSON.stringify(
        argumentsOf(tool.inputSchema)
          .map(({ name }) => name)
          .sort(),
      ),
      text: tool.description.trim().toLowerCase(),
      words: new Set(wordsOf(tool.description.replaceAll('_', ' '))),
    }));
    let pairs = 0;
    return known.flatMap((one, index) => {
      const twin = known.slice(0, index).find((other) => {
        // The very same words are another rule's.
        if (other.shape !== one.shape || other.text === one.text || ++pairs > MOST_PAIRS) return false;
        return likeness(one.words, other.words) >= ALIKE;
      });
      if (!twin) return [];
      return [
        {
          weight: 'hurts' as const,
          tool: one.tool.name,
          argument: null,
          title: `A model can hardly tell "${one.tool.name}" from "${twin.tool.name}"`,
          why: 'They take the same arguments and have nearly the same description.',
          instead: 'Remove one, or say in each description when to use it instead of the other.',
          fix: null,
        },
      ];
    });
  },
};

const MANY = new Set('list search find all export dump query'.split(' '));
const LIMITS = /limit|max|top|first|page|cursor|count|size|per_page|offset/;

export const unboundedResult: ReviewRule = {
  code: 'result_unbounded',
  about: 'A tool that lists items without a limit.',
  look: eachTool(({ name, inputSchema, bounded }) => [
    bounded !== true &&
      name.split('_').some((word) => MANY.has(word)) &&
      !argumentsOf(inputSchema).some((argument) => LIMITS.test(argument.name)) && {
        weight: 'could be better',
        argument: null,
        title: `"${name}" returns an unlimited number of items`,
        why: "One long result can fill the model's context window and push the question out of it.",
        instead: 'Add a limit with a default, or return the first items and the total count.',
        fix: null,
      },
  ]),
};

export const tooMany: ReviewRule = {
  code: 'too_many_tools',
  about: `More than ${MOST_TOOLS} tools for one model.`,
  look: (tools) =>
    tools.length <= MOST_TOOLS
      ? []
      : [
          {
            weight: 'hurts',
            tool: null,
            argument: null,
            title: `${tools.length} tools are too many for one model`,
            why: `With more than about ${MOST_TOOLS} tools, models choose the wrong one noticeably more often.`,
            instead: 'Remove tools that are not needed here, or create two endpoints for different kinds of work.',
            fix: null,
          },
        ],
};

export const tooLong: ReviewRule = {
  code: 'too_many_tokens',
  about: `A tool list of more than about ${MOST_TOKENS} tokens.`,
  look: (tools) => {
    const tokens = estimateTokens(tools.map(asSent));
    if (tokens <= MOST_TOKENS) return [];
    return [
      {
        weight: 'hurts',
        tool: null,
        argument: null,
        title: `The tool list takes about ${tokens} tokens`,
        why: 'Every request includes the list, and pays for it.',
        instead: 'Shorten the longest descriptions and schemas, or remove tools.',
        fix: null,
      },
    ];
  },
};

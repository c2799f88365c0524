/** Flows to begin with. They need nothing but Pindro itself, except where they say so. */
export const STARTERS = [
  {
    name: 'ask-first',
    title: 'Ask a person first',
    about: 'Takes a request, waits until somebody approves it, and tells what was decided.',
    document: {
      description: 'Put a request before a person and tell what was decided.',
      input: {
        type: 'object',
        required: ['request'],
        properties: { request: { type: 'string', description: 'What is asked for' } },
      },
      steps: {
        ask: { kind: 'approve', with: { title: '${ input.request }', facts: { who: '${ caller.id }' } } },
        yes: {
          kind: 'text',
          after: ['ask.approved'],
          with: { text: '${ steps.ask.by } approved: ${ input.request }' },
        },
        no: {
          kind: 'stop',
          after: ['ask.refused'],
          with: { as: 'failed', message: 'It was refused. ${ steps.ask.note }' },
        },
      },
      result: '${ steps.yes.text }',
    },
  },
  {
    name: 'web-to-text',
    title: 'From the web to a sentence',
    about: 'Reads a web address and says in a sentence what came back.',
    document: {
      description: 'Read a web address and tell its status.',
      input: {
        type: 'object',
        required: ['url'],
        properties: { url: { type: 'string', format: 'uri', description: 'The address to read' } },
      },
      steps: {
        read: { kind: 'http', timeout: '10s', with: { url: '${ input.url }' } },
        say: { kind: 'text', after: ['read'], with: { text: '${ input.url } answered ${ steps.read.status }.' } },
      },
      result: '${ steps.say.text }',
    },
  },
  {
    name: 'list-report',
    title: 'A report out of a list',
    about: 'Writes a line for each item of a list and puts them together.',
    document: {
      description: 'Write a report with a line for each item.',
      input: {
        type: 'object',
        required: ['items'],
        properties: { items: { type: 'array', items: { type: 'string' }, description: 'What the report is about' } },
      },
      steps: {
        lines: {
          kind: 'each',
          with: {
            list: '${ input.items }',
            steps: { line: { kind: 'text', with: { text: '${ index + 1 }. ${ item }' } } },
            result: '${ steps.line.text }',
          },
        },
        report: { kind: 'text', after: ['lines'], with: { text: '${ steps.lines.results.join("\\n") }' } },
      },
      result: '${ steps.report.text }',
    },
  },
];

import type { JsonObject } from '@pindro/core/browser';

/** What there is, so that a starter names what is there. */
export interface Around {
  models: string[];
  endpoints: string[];
  servers: string[];
}
export interface Starter {
  name: string;
  title: string;
  about: string;
  /** Whether it makes a form page too, through which people fill in its inputs. */
  form?: boolean;
  document(around: Around): JsonObject;
}

const text = (description: string) => ({ type: 'string', description });

/** Flows to begin with. They run as they are, except where they say what is missing; a new one is one entry here. */
export const STARTERS: Starter[] = [
  {
    name: 'agent',
    title: 'An agent with tools',
    about: 'Talks to people, remembers the conversation, and uses tools to find out and to act. It needs a model.',
    document: ({ models, endpoints }) => ({
      description: 'Answer a message with the help of tools.',
      input: { type: 'object', required: ['message'], properties: { message: text('What is asked') } },
      steps: {
        desk: {
          kind: 'agent',
          with: {
            ...(models.length === 1 && { model: models[0]! }),
            instructions:
              'You keep the desk. Today is ${ clock.today }. Look things up before you act. Say plainly when something did not work.',
            message: '${ input.message }',
            memory: { turns: 12 },
            // Only what somebody chose for a model already: never every tool of a server.
            toolbox: endpoints.length === 1 ? [{ endpoint: endpoints[0]! }] : [],
            limits: { rounds: 8, time: '90s', tokens: 20000 },
          },
        },
      },
      result: '${ steps.desk.answer }',
    }),
  },
  {
    name: 'ask-first',
    title: 'Ask a person first',
    about: 'Takes a request, waits until somebody approves it, and tells what was decided.',
    document: () => ({
      description: 'Put a request before a person and tell what was decided.',
      input: { type: 'object', required: ['request'], properties: { request: text('What is asked for') } },
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
    }),
  },
  {
    name: 'form-mail',
    title: 'A form that sends a mail',
    about: 'People fill in a form page; what they write goes out as a mail, and they are thanked.',
    form: true,
    document: () => ({
      description: 'Pass on what somebody wrote in a form.',
      input: {
        type: 'object',
        required: ['name', 'email', 'question'],
        properties: {
          name: text('Who asks'),
          email: { type: 'string', format: 'email', description: 'Where the answer goes' },
          question: { type: 'string', maxLength: 4000, description: 'What is asked' },
        },
      },
      steps: {
        pass_on: {
          kind: 'mail',
          with: {
            to: 'desk@alder-ridge.example',
            subject: 'A question of ${ input.name }',
            text: '${ input.name } (${ input.email }) asks:\n\n${ input.question }',
          },
        },
      },
      result: 'Thank you, ${ input.name }.',
    }),
  },
  {
    name: 'web-to-text',
    title: 'From the web to a sentence',
    about: 'Reads a web address and says in a sentence what came back.',
    document: () => ({
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
    }),
  },
  {
    name: 'list-report',
    title: 'A report out of a list',
    about: 'Writes a line for each item of a list and puts them together.',
    document: () => ({
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
    }),
  },
];

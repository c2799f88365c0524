import type { JsonObject } from '@pindro/core/browser';

/** Available things that a template can refer to. */
export interface Surround {
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
  document(around: Surround): JsonObject;
}

const text = (description: string) => ({ type: 'string', description });

/** Flows to begin with. They run as they are, except where they say what is missing; a new one is one entry here. */
export const STARTERS: Starter[] = [
  {
    name: 'agent',
    title: 'An agent with tools',
    about: 'Chats with people, remembers the conversation, and uses tools. It needs a model.',
    document: ({ models, endpoints }) => ({
      description: 'Answer a message with the help of tools.',
      input: { type: 'object', required: ['message'], properties: { message: text('Message to answer') } },
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
    about: 'Takes a request, waits for approval, and reports the decision.',
    document: () => ({
      description: 'Ask a person to approve a request and report the decision.',
      input: { type: 'object', required: ['request'], properties: { request: text('The request') } },
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
          with: { as: 'failed', message: 'It was rejected. ${ steps.ask.note }' },
        },
      },
      result: '${ steps.yes.text }',
    }),
  },
  {
    name: 'form-mail',
    title: 'A form that sends a mail',
    about: 'People fill in a form page; the flow mails their message and thanks them.',
    form: true,
    document: () => ({
      description: 'Forward a message from a form.',
      input: {
        type: 'object',
        required: ['name', 'email', 'question'],
        properties: {
          name: text('Name of the sender'),
          email: { type: 'string', format: 'email', description: 'Address for the reply' },
          question: { type: 'string', maxLength: 4000, description: 'Message to answer' },
        },
      },
      steps: {
        pass_on: {
          kind: 'mail',
          with: {
            to: 'desk@alder-ridge.example',
            subject: 'A question from ${ input.name }',
            text: '${ input.name } (${ input.email }) asks:\n\n${ input.question }',
          },
        },
      },
      result: 'Thank you, ${ input.name }.',
    }),
  },
  {
    name: 'web-to-text',
    title: 'Web page to text',
    about: 'Reads a web address and describes the response.',
    document: () => ({
      description: 'Read a web address and report its status.',
      input: {
        type: 'object',
        required: ['url'],
        properties: { url: { type: 'string', format: 'uri', description: 'The address to read' } },
      },
      steps: {
        read: { kind: 'http', timeout: '10s', with: { url: '${ input.url }' } },
        say: { kind: 'text', after: ['read'], with: { text: '${ input.url } returned ${ steps.read.status }.' } },
      },
      result: '${ steps.say.text }',
    }),
  },
  {
    name: 'list-report',
    title: 'A report from a list',
    about: 'Writes a line for each item of a list and joins them.',
    document: () => ({
      description: 'Write a report with a line for each item.',
      input: {
        type: 'object',
        required: ['items'],
        properties: { items: { type: 'array', items: { type: 'string' }, description: 'Items of the report' } },
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

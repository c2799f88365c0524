/**
 * A flow of one agent that somebody talks to.
 * @param config further lines of its configuration
 */
export function deskFlow(config = '', { name = 'desk', model = 'house', memory = '' } = {}): string {
  const own = [`model: ${model}`, 'message: "${ input.message }"', `memory: { key: ["\${ session.id }"]${memory} }`];
  const lines = [...own, ...config.split('\n')].map((line) => `      ${line}`).join('\n');
  return `format: pindro/flow@1
name: ${name}
input: { type: object, required: [message], properties: { message: { type: string } } }
steps:
  desk:
    kind: agent
    with:
${lines}
result: "\${ steps.desk.answer }"
`;
}

/** A flow that greets whom its input names. @param field the field that it reads, which may be misspelt */
export function greetFlow(field: string): string {
  return `format: pindro/flow@1
name: greet
input: { type: object, properties: { who: { type: object } } }
steps:
  say: { kind: text, with: { text: "Welcome, \${ input.who.${field} }!" } }
result: "\${ steps.say.text }"
`;
}

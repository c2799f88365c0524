/** How a flow is written, for an assistant that has never seen one. Each example is checked by a test. */
export const EXAMPLE_FLOW = `format: pindro/flow@1
name: bunks-taken
title: Bunks taken
description: Says how many bunks are taken in one hut on one night.
input:
  type: object
  required: [hut, night]
  properties:
    hut: { type: string, description: Which hut }
    night: { type: string, format: date, description: 'Which night, for example 2027-02-14' }
steps:
  taken:
    kind: table
    with:
      table: bookings
      do: find
      where: { hut: "\${ input.hut }", night: "\${ input.night }" }
result: { bunks: "\${ steps.taken.rows.map(row, row.party).sum() }" }
`;

export const FORMAT_NOTES = `A flow is one YAML document. "input" is a JSON Schema (2020-12) of what a caller gives; describe every property, a model reads it. "steps" maps names ([a-z][a-z0-9_]*) to steps: "kind", "with" (what that kind takes), "after" (the steps it comes after; "after: [a.yes]" follows one branch of a), and if needed "on_error" (stop, continue, branch), "timeout" (10s), "retry". Steps whose "after" is settled run side by side. "result" is what the caller gets.
Strings may hold expressions (Common Expression Language) as \${ … }. They see input, steps.NAME (only of steps this one comes after), caller, session, run and clock (now, today, zone). A string that is one expression keeps the type of its value; $\${ is a literal.
Never write a secret into a flow: name a credential instead. A proposal is checked like a draft and refused with every mistake and its place.
Example:
${EXAMPLE_FLOW}`;

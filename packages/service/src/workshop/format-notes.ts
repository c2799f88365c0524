/** The flow format, for an assistant that has never seen one. A test checks the example. */
export const EXAMPLE_FLOW = `format: pindro/flow@1
name: bunks-taken
title: Bunks taken
description: Returns how many bunks are reserved in one hut on one night.
input:
  type: object
  required: [hut, night]
  properties:
    hut: { type: string, description: Name of the hut }
    night: { type: string, format: date, description: 'Night, for example 2027-02-14' }
steps:
  taken:
    kind: table
    with:
      table: bookings
      do: find
      where: { hut: "\${ input.hut }", night: "\${ input.night }" }
result: { bunks: "\${ steps.taken.rows.map(row, row.party).sum() }" }
`;

export const FORMAT_NOTES = `A flow is one YAML document. "input" is a JSON Schema (2020-12) of the caller's input; describe every property, because a model reads it. "steps" maps names ([a-z][a-z0-9_]*) to steps: "kind", "with" (the settings of that kind), "after" (the steps that must finish first; "after: [a.yes]" follows one branch of a), and optionally "on_error" (stop, continue, branch), "timeout" (10s) and "retry". Independent steps run in parallel. "result" is what the caller receives.
Strings may contain expressions (Common Expression Language) as \${ … }. They can read input, steps.NAME (only steps that come before this one), caller, session, run and clock (now, today, zone). A string that is one expression keeps the type of its value; $\${ is a literal.
Never write a secret into a flow: name a credential instead. A proposal is checked like a draft, and rejected with every mistake and its location.
Example:
${EXAMPLE_FLOW}`;

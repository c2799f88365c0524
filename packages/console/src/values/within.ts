/** Under which the name of the whole value stands in the context of its parts. */
export const WITHIN = Symbol('within');

/** Context key of the name of the whole value. */
export const WITHIN = Symbol('within');

/**
 * A function of a thing that does not change, worked out once for each and forgotten with it. What it gives is shared:
 * nobody changes it.
 */
export function onceFor<Of extends object, Made>(make: (of: Of) => Made): (of: Of) => Made {
  const known = new WeakMap<Of, { made: Made }>();
  return (of) => {
    const before = known.get(of);
    if (before !== undefined) return before.made;
    const made = make(of);
    known.set(of, { made });
    return made;
  };
}

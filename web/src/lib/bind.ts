/** What a field of a form is given: what stands in it, what a change does, and why it was refused. */
export interface Bound<Value> {
  value: Value;
  onChange: (value: Value) => void;
  problem: string | undefined;
}

/**
 * Binds the fields of a form to its draft: `at("owner")` is all that the owner's field needs.
 *
 * A field that the server calls otherwise is named twice: `at("askedBy", "asked_by")`.
 */
export function bind<Draft extends object>(
  draft: Draft,
  edit: (change: Partial<Draft>) => void,
  problemAt: (field: string) => string | undefined = () => undefined,
) {
  return <Name extends keyof Draft & string>(name: Name, sent: string = name): Bound<Draft[Name]> => ({
    value: draft[name],
    onChange: (value) => edit({ [name]: value } as unknown as Partial<Draft>),
    problem: problemAt(sent),
  });
}

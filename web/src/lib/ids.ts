/** Ids are made by whoever creates the thing. */
export const newId = (): string => crypto.randomUUID();

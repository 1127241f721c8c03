/** A copy of plain data, free of what the page watches. */
export const copy = <T>(v: T): T => JSON.parse(JSON.stringify(v)) as T

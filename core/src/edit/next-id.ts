/** Next free id of a list: the prefix and one more than the largest number there. */
export const nextId = (prefix: string, taken: readonly { readonly id: string }[]): string =>
  `${prefix}${taken.reduce((most, { id }) => Math.max(most, Number(id.startsWith(prefix) ? id.slice(prefix.length) : 0) || 0), 0) + 1}`;

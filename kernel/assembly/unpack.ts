/* Short pieces of packed data, of which files hold thousands. */

export { inflate } from './inflate';
export { lzw } from './lzw';

/* Pixels put the right way up. */

/**
 * Gathers pixels into rows one after the other.
 * @param from the first pixel; in a row of the result the next one lies `along` bytes on, in the next row `down`
 * @param to the result's first pixel; @param columns, rows its size
 * @param bytes of a pixel: 1, 2, 3, 4, 6 or 8; up to two beyond the last one are read and written
 */
export function gather(from: usize, along: i32, down: i32, to: usize, columns: i32, rows: i32, bytes: i32): void {
  let q = to;
  for (let j = 0; j < rows; j++) {
    let p = from + j * down;
    const end = q + columns * bytes;
    if (bytes == 1) for (; q < end; q += 1, p += along) store<u8>(q, load<u8>(p));
    else if (bytes == 2) for (; q < end; q += 2, p += along) store<u16>(q, load<u16>(p));
    else if (bytes <= 4) for (; q < end; q += bytes, p += along) store<u32>(q, load<u32>(p));
    else for (; q < end; q += bytes, p += along) store<u64>(q, load<u64>(p));
  }
}

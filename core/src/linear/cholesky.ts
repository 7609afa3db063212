/**
 * Solves `matrix x = right` for a symmetric positive definite matrix; both are overwritten, `right` with x. What is zero before a row's first
 * entry costs nothing.
 *
 * @param matrix row-major, size a side; its lower half is read
 * @returns false, the memory being spoilt, for a matrix that is not positive definite
 * Source: Golub, Van Loan, Matrix computations, 4.2.
 */
export function solvePositive(matrix: Float64Array, right: Float64Array, size: number): boolean {
  const first = new Int32Array(size);
  for (let i = 0; i < size; i += 1) {
    const rowI = i * size;
    let start = 0;
    while (start < i && matrix[rowI + start] === 0) start += 1;
    first[i] = start;
    for (let j = start; j <= i; j += 1) {
      const rowJ = j * size;
      let sum = matrix[rowI + j] as number;
      for (let k = Math.max(start, first[j] as number); k < j; k += 1) sum -= (matrix[rowI + k] as number) * (matrix[rowJ + k] as number);
      if (j < i) matrix[rowI + j] = sum / (matrix[rowJ + j] as number);
      else if (sum > 0) matrix[rowI + i] = Math.sqrt(sum);
      else return false;
    }
  }
  for (let i = 0; i < size; i += 1) {
    let sum = right[i] as number;
    for (let k = first[i] as number; k < i; k += 1) sum -= (matrix[i * size + k] as number) * (right[k] as number);
    right[i] = sum / (matrix[i * size + i] as number);
  }
  for (let i = size - 1; i >= 0; i -= 1) {
    const value = (right[i] as number) / (matrix[i * size + i] as number);
    right[i] = value;
    for (let k = first[i] as number; k < i; k += 1) right[k] = (right[k] as number) - (matrix[i * size + k] as number) * value;
  }
  return true;
}

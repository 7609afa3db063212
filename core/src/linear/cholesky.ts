/**
 * Solves `matrix x = right` for a symmetric positive definite matrix; both are overwritten, `right` with x.
 *
 * @param matrix row-major, size a side; its lower half is read
 * @returns false, the memory being spoilt, for a matrix that is not positive definite
 * Source: Golub, Van Loan, Matrix computations, 4.2.
 */
export function solvePositive(matrix: Float64Array, right: Float64Array, size: number): boolean {
  for (let j = 0; j < size; j += 1) {
    const rowJ = j * size;
    for (let i = j; i < size; i += 1) {
      const rowI = i * size;
      let sum = matrix[rowI + j] as number;
      for (let k = 0; k < j; k += 1) sum -= (matrix[rowI + k] as number) * (matrix[rowJ + k] as number);
      if (i > j) matrix[rowI + j] = sum / (matrix[rowJ + j] as number);
      else if (sum > 0) matrix[rowJ + j] = Math.sqrt(sum);
      else return false;
    }
  }
  for (let i = 0; i < size; i += 1) {
    let sum = right[i] as number;
    for (let k = 0; k < i; k += 1) sum -= (matrix[i * size + k] as number) * (right[k] as number);
    right[i] = sum / (matrix[i * size + i] as number);
  }
  for (let i = size - 1; i >= 0; i -= 1) {
    let sum = right[i] as number;
    for (let k = i + 1; k < size; k += 1) sum -= (matrix[k * size + i] as number) * (right[k] as number);
    right[i] = sum / (matrix[i * size + i] as number);
  }
  return true;
}

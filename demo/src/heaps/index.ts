export { composeHeap, heapTruth, type Heap, type HeapPrint, type HeapTruth } from './compose-heap';
export { randomHeap, type HeapWishes } from './random-heap';

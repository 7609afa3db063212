import { distanceToSegment, type Point } from '@able-plumb/core';

/** How near to a line a pointer takes it, screen px. */
export const LINE_REACH_PX = 7;

/** Whether a pointer lies on a broken line, screen px. */
export const nearCourse = (at: Point, course: readonly Point[]): boolean =>
  course.some((p, i) => i > 0 && distanceToSegment(at, course[i - 1] as Point, p) <= LINE_REACH_PX);

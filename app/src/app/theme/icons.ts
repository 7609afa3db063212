import type icons from './icons.json';

/** Icons by what they stand for here: outlines of a kept package, and own drawings of what no package has. */
export type IconName = keyof typeof icons.kept | keyof typeof icons.own;

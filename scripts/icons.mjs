/* Writes the sprite of the icons: single outlines out of the icon package, and the product's own drawings, by the names in icons.json. */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Writes `app/src/app/theme/icons.svg`; a name that the package does not have is an error. */
export function writeIcons(root) {
  const folder = join(root, 'app/src/app/theme');
  const { kept, own } = JSON.parse(readFileSync(join(folder, 'icons.json'), 'utf8'));
  const inside = (name) => {
    const file = join(root, 'node_modules/@tabler/icons/icons/outline', `${name}.svg`);
    return /<svg[^>]*>([\s\S]*)<\/svg>/.exec(readFileSync(file, 'utf8'))[1].replace(/\s+/g, ' ').trim();
  };
  const line = (id, drawn) =>
    `<svg id="${id}" viewBox="0 0 24 24" fill="none" stroke="currentColor" stroke-width="1.7" stroke-linecap="round" stroke-linejoin="round">${drawn}</svg>`;
  const sprite = [
    ...Object.entries(kept).map(([id, name]) => line(id, inside(name))),
    ...Object.entries(own).map(([id, d]) => line(id, `<path d="${d}"/>`)),
  ];
  const text = `<svg xmlns="http://www.w3.org/2000/svg"><defs>${sprite.join('')}</defs></svg>\n`;
  const target = join(folder, 'icons.svg');
  if (!existsSync(target) || readFileSync(target, 'utf8') !== text) writeFileSync(target, text);
}

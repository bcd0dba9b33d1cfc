/** The hinge that goes onto a box, as it ships with us. */
import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** Bundled or from the source: the folder that holds it is one of those above this file. */
function hingeFile(): string {
  for (let folder = dirname(fileURLToPath(import.meta.url)); ; folder = dirname(folder)) {
    const file = join(folder, 'src', 'hinge', 'jolly-gate-hinge');
    if (existsSync(file)) return file;
    if (folder === dirname(folder)) throw new Error('src/hinge/jolly-gate-hinge does not lie beside this');
  }
}

/** The text of the hinge. */
export const hingeText = (): string => readFileSync(hingeFile(), 'utf8');

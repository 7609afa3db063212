/* Writes the JSON Schemas of the documents to docs/schema. */
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { correctionJsonSchema } from '../src/correction/json-schema';
import { jobJsonSchema } from '../src/job/manifest';

const folder = join(dirname(fileURLToPath(import.meta.url)), '../../docs/schema');
mkdirSync(folder, { recursive: true });
writeFileSync(join(folder, 'correction.schema.json'), `${JSON.stringify(correctionJsonSchema(), null, 2)}\n`);
writeFileSync(join(folder, 'job.schema.json'), `${JSON.stringify(jobJsonSchema(), null, 2)}\n`);

import { readFileSync, writeFileSync } from 'node:fs';

const [START, END] = ['<!-- speed -->', '<!-- /speed -->'];

/** Prints a table; with `--write`, also puts it in place of the one that a document has. */
export function writeTable(document, table) {
  console.log(table);
  if (!process.argv.includes('--write')) return;
  const text = readFileSync(document, 'utf8');
  const [ahead, behind] = [text.slice(0, text.indexOf(START) + START.length), text.slice(text.indexOf(END))];
  writeFileSync(document, `${ahead}\n${table}\n${behind}`);
}

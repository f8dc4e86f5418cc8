/**
 * What people read on the pages stands in message modules, so that it can be reviewed in one place and translated one day.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';

const ROOMS = ['src/app', 'src/features', 'src/ui'];
/** Attributes whose value is read, on the screen or aloud. */
const READ_ATTRIBUTES = new Set([
  'action',
  'alt',
  'aria-description',
  'aria-label',
  'aria-valuetext',
  'caption',
  'description',
  'hint',
  'label',
  'legend',
  'placeholder',
  'text',
  'title',
  'unit',
  'words',
]);

/** Whether a literal holds a word: two letters in a row, besides the units that all languages share. */
const isText = (text: string) =>
  /\p{L}{2}/u.test(text.replaceAll(/\b(?:dBTP|dBFS|dB|LUFS|LU|kbit\/s|Hz|kHz|ms)\b/gu, ''));

function textsOf(fileName: string): string[] {
  const file = ts.createSourceFile(fileName, readFileSync(fileName, 'utf8'), ts.ScriptTarget.Latest, true);
  const found: string[] = [];
  const read = (node: ts.Node): void => {
    const isLiteral =
      ts.isStringLiteralLike(node) ||
      ts.isJsxText(node) ||
      ts.isTemplateHead(node) ||
      ts.isTemplateMiddleOrTemplateTail(node);
    if (isLiteral && isText(node.text) && isRead(node)) {
      const { line } = file.getLineAndCharacterOfPosition(node.getStart(file));
      found.push(`${fileName}:${line + 1} ${node.text.trim()}`);
    }
    ts.forEachChild(node, read);
  };
  read(file);
  return found;
}

/** Whether a literal's value comes to be shown: what is only compared, looked up or passed on to a function is not. */
function isRead(literal: ts.Node): boolean {
  if (ts.isJsxText(literal)) return true;
  let node = literal;
  for (let { parent } = node; parent; node = parent, { parent } = node) {
    if (ts.isJsxAttribute(parent)) return READ_ATTRIBUTES.has(parent.name.getText());
    if (ts.isJsxExpression(parent) && !ts.isJsxAttribute(parent.parent)) return true;
    if (ts.isCallExpression(parent) || ts.isElementAccessExpression(parent) || ts.isPropertyAssignment(parent))
      return false;
    if (ts.isBinaryExpression(parent) && parent.operatorToken.getText().includes('==')) return false;
    if (ts.isConditionalExpression(parent) && parent.condition === node) return false;
    if (ts.isStatement(parent)) return false;
  }
  return false;
}

const components = ROOMS.flatMap((room) =>
  readdirSync(room, { recursive: true, encoding: 'utf8' })
    .filter((name) => name.endsWith('.tsx'))
    .map((name) => join(room, name)),
);

test('no component holds a text that people read', () => {
  expect(components.length).toBeGreaterThan(90);
  expect(components.flatMap(textsOf)).toEqual([]);
});

// Where core can be broken by hand: each place of a program at which one small, wrong thing could have been written instead.
import { readFileSync } from 'node:fs';
import ts from 'typescript';

/** What somebody could have written by mistake instead of an operator. */
const INSTEAD = {
  '<': '<=',
  '<=': '<',
  '>': '>=',
  '>=': '>',
  '===': '!==',
  '!==': '===',
  '&&': '||',
  '||': '&&',
  '+': '-',
  '-': '+',
  '*': '/',
  '/': '*',
  '%': '*',
};
const CALLS = { some: 'every', every: 'some', min: 'max', max: 'min', floor: 'ceil', ceil: 'floor' };

/** The mutants of one node: what stands there instead of it; nothing where a slip there would be no program. */
function* insteadOf(node, text) {
  const of = (n) => text.slice(n.getStart(), n.end);
  if (ts.isBinaryExpression(node)) {
    const sign = node.operatorToken.getText();
    if (sign === '??') yield of(node.right);
    else if (
      sign === '+' &&
      [node.left, node.right].some((n) => ts.isStringLiteralLike(n) || ts.isTemplateExpression(n))
    )
      return;
    else if (INSTEAD[sign]) yield `${of(node.left)} ${INSTEAD[sign]} ${of(node.right)}`;
  } else if (ts.isPrefixUnaryExpression(node) && node.operator === ts.SyntaxKind.ExclamationToken)
    yield of(node.operand);
  else if (ts.isConditionalExpression(node))
    yield `${of(node.condition)} ? ${of(node.whenFalse)} : ${of(node.whenTrue)}`;
  else if (ts.isNumericLiteral(node)) yield String(Number(node.text.replaceAll('_', '')) + 1);
  else if (node.kind === ts.SyntaxKind.TrueKeyword) yield 'false';
  else if (node.kind === ts.SyntaxKind.FalseKeyword) yield 'true';
  else if (
    ts.isCallExpression(node) &&
    ts.isPropertyAccessExpression(node.expression) &&
    CALLS[node.expression.name.text] &&
    !node.questionDotToken
  ) {
    const { expression } = node;
    yield `${of(expression.expression)}.${CALLS[expression.name.text]}${text.slice(expression.end, node.end)}`;
  } else if (ts.isExpressionStatement(node) && ts.isCallExpression(node.expression)) yield '';
}

/** Conditions are turned round as well: `if (a)` becomes `if (!a)`. */
const turned = (node) =>
  ts.isIfStatement(node) && !ts.isBinaryExpression(node.expression) && !ts.isPrefixUnaryExpression(node.expression)
    ? node.expression
    : undefined;

/**
 * Every mutant of one file, in its order.
 * @returns {{file: string, line: number, from: number, to: number, was: string, is: string, statement: boolean}[]} from and to in characters
 */
export function pointsOf(file) {
  const text = readFileSync(file, 'utf8');
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
  const points = [];
  const point = (node, is) => {
    const from = node.getStart();
    points.push({
      file,
      line: source.getLineAndCharacterOfPosition(from).line + 1,
      from,
      to: node.end,
      was: text.slice(from, node.end),
      is,
      statement: ts.isExpressionStatement(node),
    });
  };
  const walk = (node) => {
    if (ts.isTypeNode(node) || ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) return;
    if (ts.isTypeAliasDeclaration(node) || ts.isInterfaceDeclaration(node)) return;
    for (const is of insteadOf(node, text)) point(node, is);
    const condition = turned(node);
    if (condition) point(condition, `!(${text.slice(condition.getStart(), condition.end)})`);
    if (ts.isPropertyAssignment(node)) walk(node.initializer);
    else ts.forEachChild(node, walk);
  };
  walk(source);
  return points;
}

/** The program of one file with these mutants in it, each asleep until its number is the one that lives. No two may overlap. */
export function withMutants(text, mutants) {
  let out = text;
  for (const { id, from, to, was, is, statement } of mutants.toSorted((a, b) => b.from - a.from))
    out = `${out.slice(0, from)}${
      statement
        ? `{ if (!globalThis.__mutant(${id})) { ${was} } }`
        : `(globalThis.__mutant(${id}) ? (${is}) : (${was}))`
    }${out.slice(to)}`;
  return out;
}

/** A node of an MJML tree, as mjml-core reads it in place of text. */
export interface MjmlNode {
  tagName: string;
  attributes?: Record<string, string>;
  children?: MjmlNode[];
  content?: string;
}
export function compileTree(tree: MjmlNode): Promise<{ html: string; errors: string[] }>;

import mjmlCore, { registerComponent } from 'mjml-core';
import presetCore from 'mjml-preset-core';
import { registerDependencies } from 'mjml-validator';

const mjml2html = mjmlCore.default ?? mjmlCore;
const preset = presetCore.default ?? presetCore;
for (const component of preset.components) registerComponent(component);
registerDependencies(preset.dependencies);

/** Compiles an MJML tree (as JSON) to HTML. No minifying, no fonts from afar, no includes. */
export async function compileTree(tree) {
  const { html, errors } = await mjml2html(tree, {
    fonts: {},
    validationLevel: 'soft',
    minify: false,
    beautify: false,
    keepComments: false,
    ignoreIncludes: true,
  });
  return { html, errors: errors.map((e) => e.formattedMessage ?? String(e)) };
}

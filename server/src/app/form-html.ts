import { escapeHtml, joiningWords, type ValueKind, type FormField, type SignUpForm } from '@ascenso/core';

/** The field that people do not see: whoever fills it in is none. */
export const TRAP = 'website';
export const AGREE = 'agree';

interface Filled {
  values: Readonly<Record<string, string>>;
  /** The field that cannot be taken, and what is said to it. */
  fault: { field: string; words: string } | null;
}
const EMPTY: Filled = { values: {}, fault: null };

const TYPES: Partial<Record<ValueKind['type'], string>> = { number: 'text" inputmode="decimal', date: 'date' };

/** A field of its own name, with what is wrong with it below. */
function field(f: FormField, kindOf: (key: string) => ValueKind | undefined, filled: Filled): string {
  const name = f.kind === 'choice' ? f.name : f.key;
  const value = filled.values[name] ?? '';
  const wrong = filled.fault?.field === name ? filled.fault.words : '';
  const told = wrong ? `<p class="fault" id="fault-${name}">${escapeHtml(wrong)}</p>` : '';
  const aria = wrong ? ` aria-invalid="true" aria-describedby="fault-${name}"` : '';
  if (f.kind === 'choice')
    return `<fieldset${aria}><legend>${escapeHtml(f.label)}</legend>${f.options
      .map(
        (o) =>
          `<label class="option"><input type="radio" name="${name}" value="${escapeHtml(o.id)}"${value === o.id ? ' checked' : ''}> ${escapeHtml(o.label)}</label>`,
      )
      .join('')}${told}</fieldset>`;
  const { type, options } = kindOf(f.key) ?? { type: 'text', options: [] };
  const required = f.required ? ' required' : '';
  if (type === 'yes-no')
    return `<label class="option" style="margin-top:14px"><input type="checkbox" name="${name}"${value ? ' checked' : ''}> ${escapeHtml(f.label)}</label>${told}`;
  if (options.length > 0)
    return `<label for="${name}">${escapeHtml(f.label)}</label><select id="${name}" name="${name}"${required}${aria}><option value=""></option>${options
      .map((o) => `<option${value === o ? ' selected' : ''}>${escapeHtml(o)}</option>`)
      .join('')}</select>${told}`;
  const complete = { first_name: 'given-name', last_name: 'family-name', birthday: 'bday' }[f.key] ?? 'on';
  return `<label for="${name}">${escapeHtml(f.label)}</label><input id="${name}" name="${name}" type="${TYPES[type] ?? 'text'}" value="${escapeHtml(value)}" autocomplete="${complete}"${required}${aria}>${told}`;
}

/** The form itself, as it stands on our page and on anybody's: it works without a script. */
export function formHtml(
  form: SignUpForm,
  action: string,
  kindOf: (key: string) => ValueKind | undefined,
  filled: Filled = EMPTY,
  more = '',
): string {
  const words = joiningWords[form.language];
  const wrong = (name: string) =>
    filled.fault?.field === name ? `<p class="fault" id="fault-${name}">${escapeHtml(filled.fault.words)}</p>` : '';
  const aria = (name: string) =>
    filled.fault?.field === name ? ` aria-invalid="true" aria-describedby="fault-${name}"` : '';
  return `<form method="post" action="${escapeHtml(action)}">
<label for="email">${escapeHtml(words.email)}</label><input id="email" name="email" type="email" value="${escapeHtml(filled.values['email'] ?? '')}" autocomplete="email" required${aria('email')}>${wrong('email')}
${form.fields.map((f) => field(f, kindOf, filled)).join('\n')}
<p class="trap" aria-hidden="true"><label>Leave this empty <input name="${TRAP}" tabindex="-1" autocomplete="off"></label></p>
<label class="agree"><input type="checkbox" name="${AGREE}" value="yes" required${filled.values[AGREE] ? ' checked' : ''}${aria(AGREE)}> <span>${escapeHtml(form.consent)}</span></label>${wrong(AGREE)}
${more}<button>${escapeHtml(form.button)}</button></form>`;
}

/** What somebody puts on a page of their own: the form, and a small script that answers in place where there is one. */
export function snippetOf(
  form: SignUpForm,
  base: string,
  id: string,
  kindOf: (key: string) => ValueKind | undefined,
): string {
  const html = formHtml(form, `${base}/form/${id}`, kindOf)
    .replace('<form ', `<form data-ascenso-form `)
    .replace('<p class="trap" aria-hidden="true">', '<p style="position:absolute;left:-10000px" aria-hidden="true">')
    .replace(/ class="(option|agree)"( style="[^"]*")?/g, '');
  return `${html}\n<script src="${base}/form.js" defer></script>`;
}

/** The script of the snippet: sends the form without leaving the page, and says on it what came of it. */
export const FORM_SCRIPT = `document.querySelectorAll('form[data-ascenso-form]').forEach(function (form) {
  form.addEventListener('submit', function (event) {
    event.preventDefault();
    var told = form.querySelector('[role=status]') || form.appendChild(document.createElement('p'));
    told.setAttribute('role', 'status');
    fetch(form.action, { method: 'POST', headers: { Accept: 'application/json' }, body: new URLSearchParams(new FormData(form)) })
      .then(function (answer) { return answer.json(); })
      .then(function (answer) {
        if (answer.ok) { form.replaceChildren(told); }
        told.textContent = answer.title ? answer.title + '. ' + answer.text : answer.text;
        var field = answer.field && form.elements[answer.field];
        if (field && field.focus) field.focus();
      })
      .catch(function () { form.submit(); });
  });
});
`;

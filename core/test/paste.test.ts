import { describe, expect, test } from 'vitest';
import { cleanPaste } from '../src/email/index.ts';

// Shaped like what word processors and browsers put on the clipboard; the words are ours.
const samples: [name: string, pasted: string, clean: string][] = [
  [
    'a desktop word processor: hidden markup, its own lists, smart quotes, a link',
    `<html xmlns:o="urn:schemas-microsoft-com:office:office"><head><meta name=Generator content="x"><style><!-- p.MsoNormal {margin:0} --></style></head><body lang=EN-GB>
     <!--StartFragment--><p class=MsoNormal><span style='font-family:"Calibri"'>“Fold <b style='mso-bidi-font-weight:normal'>along</b> the grain,” he said.<o:p></o:p></span></p>
     <p class=MsoListParagraphCxSpFirst style='text-indent:-18.0pt;mso-list:l0 level1 lfo1'><![if !supportLists]><span style='mso-list:Ignore'>·<span style='font:7.0pt "Times New Roman"'>&nbsp;&nbsp; </span></span><![endif]>Paper</p>
     <p class=MsoListParagraphCxSpMiddle style='mso-list:l0 level2 lfo1'><span style='mso-list:Ignore'>o</span>Laid</p>
     <p class=MsoListParagraphCxSpLast style='mso-list:l0 level1 lfo1'><span style='mso-list:Ignore'>·</span>Thread</p>
     <p class=MsoNormal><a href="https://foldwell.example/kits"><span style='color:windowtext'>Our kits</span></a></p><!--EndFragment--></body></html>`,
    '<p>“Fold <strong>along</strong> the grain,” he said.</p><ul><li><p>Paper</p><ul><li><p>Laid</p></li></ul></li><li><p>Thread</p></li></ul><p><a href="https://foldwell.example/kits">Our kits</a></p>',
  ],
  [
    'numbered steps of a desktop word processor',
    `<p style='mso-list:l1 level1 lfo2'><span style='mso-list:Ignore'>1.<span> </span></span>Fold</p><p style='mso-list:l1 level1 lfo2'><span style='mso-list:Ignore'>2.</span>Press</p>`,
    '<ol><li><p>Fold</p></li><li><p>Press</p></li></ol>',
  ],
  [
    'an online word processor: everything in a bold that is not bold, weights as styles',
    `<meta charset="utf-8"><b style="font-weight:normal;" id="guid-1"><p dir="ltr" style="line-height:1.38"><span style="font-size:11pt;font-weight:400">Hello </span><span style="font-weight:700">Marta</span><span style="font-style:italic">, read on</span></p><br><ul><li dir="ltr" aria-level="1"><p dir="ltr"><span style="font-weight:400">One</span></p></li><li aria-level="1"><p><span>Two</span></p></li></ul></b>`,
    '<p>Hello <strong>Marta</strong><em>, read on</em></p><ul><li><p>One</p></li><li><p>Two</p></li></ul>',
  ],
  [
    'a table becomes a line for each row',
    '<table><tbody><tr><td><p>Paper</p></td><td>Weight</td></tr><tr><td><b>Laid</b></td><td>120&nbsp;g</td></tr></tbody></table>',
    '<p>Paper | Weight</p><p><strong>Laid</strong> | 120 g</p>',
  ],
  [
    'a page: scripts, pictures and odd addresses go, merge fields stay',
    '<h2>Kits</h2><script>x()</script><img src="x" onerror="y()"><p onclick="z()">See <a href="javascript:alert(1)">this</a> and <a href="{{ event.return_to }}">{{ event.cart }}</a></p>',
    '<p>Kits</p><p>See this and <a href="{{ event.return_to }}">{{ event.cart }}</a></p>',
  ],
  [
    'lines parted by breaks stay one paragraph',
    'Rua das Gáveas 12<br>Lisboa<br>',
    '<p>Rua das Gáveas 12<br>Lisboa</p>',
  ],
  ['an empty paste is empty', '<p>&nbsp;</p><div> </div>', ''],
];

describe('what is pasted comes out clean', () => {
  test.each(samples)('%s', (_name, pasted, clean) => {
    expect(cleanPaste(pasted)).toBe(clean);
  });

  test('clean text stays as it is', () => {
    for (const [, , clean] of samples) expect(cleanPaste(clean)).toBe(clean);
  });
});

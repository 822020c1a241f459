import type { TimerFace } from '../offer/index.ts';
import type { Written } from '../words/index.ts';

/** Where a sender can be found elsewhere. */
export const networks = [
  'website',
  'instagram',
  'facebook',
  'youtube',
  'tiktok',
  'linkedin',
  'pinterest',
  'mastodon',
] as const;
export type Network = (typeof networks)[number];

/** Campaign parameters that every link of an email carries. Templates; '' leaves one out. */
export interface Campaign {
  source: string;
  medium: string;
  campaign: string;
  content: string;
}

/** House style of a workspace: what every email takes on. Colours are hex, sizes px. */
export interface HouseStyle {
  brand: string;
  /** What emails are written in, where they do not say otherwise. */
  language: Written;
  /** Hosted picture of the mark, or ''; its width in the layout, px; and where it leads, or ''. */
  logo: { file: string; width: number; address: string };
  font: string;
  headingFont: string;
  size: number;
  /** Size of a title and of a heading. */
  titleSize: number;
  headingSize: number;
  width: number;
  page: string;
  sheet: string;
  text: string;
  soft: string;
  accent: string;
  onAccent: string;
  link: string;
  line: string;
  /** Corners of buttons. */
  radius: number;
  social: { network: Network; address: string }[];
  campaign: Campaign;
  /** Timer faces beside the ones that ship. */
  faces: { name: string; face: TimerFace }[];
  postalAddress: string;
}

export const plainStyle: HouseStyle = {
  brand: '',
  language: 'en',
  logo: { file: '', width: 160, address: '' },
  font: "'Helvetica Neue', Helvetica, Arial, sans-serif",
  headingFont: "'Helvetica Neue', Helvetica, Arial, sans-serif",
  size: 17,
  titleSize: 28,
  headingSize: 22,
  width: 600,
  page: '#efece4',
  sheet: '#ffffff',
  text: '#2b2a27',
  soft: '#66625a',
  accent: '#6b3a22',
  onAccent: '#ffffff',
  link: '#6b3a22',
  line: '#ddd6c8',
  radius: 6,
  social: [],
  faces: [],
  campaign: { source: '', medium: '', campaign: '', content: '' },
  postalAddress: '',
};

/** What a letter looks like: nothing around it, one font, links as they are. */
export const letterStyle = (style: HouseStyle): HouseStyle => ({
  ...style,
  headingFont: style.font,
  page: '#ffffff',
  sheet: '#ffffff',
  titleSize: style.size + 3,
  headingSize: style.size + 1,
});

/** House style of a workspace: what every email takes on. Colours are hex, sizes px. */
export interface HouseStyle {
  brand: string;
  font: string;
  headingFont: string;
  size: number;
  width: number;
  page: string;
  sheet: string;
  text: string;
  soft: string;
  accent: string;
  onAccent: string;
  line: string;
  postalAddress: string;
}

export const plainStyle: HouseStyle = {
  brand: '',
  font: "'Helvetica Neue', Helvetica, Arial, sans-serif",
  headingFont: "'Helvetica Neue', Helvetica, Arial, sans-serif",
  size: 17,
  width: 600,
  page: '#efece4',
  sheet: '#ffffff',
  text: '#2b2a27',
  soft: '#66625a',
  accent: '#6b3a22',
  onAccent: '#ffffff',
  line: '#ddd6c8',
  postalAddress: '',
};

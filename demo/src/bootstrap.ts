const DAY = 86_400_000;

/** The moment at which the demo's history ends and its practice clock stands: Friday 6 March 2026, 9:12 in Lisbon. */
export const DEMO_NOW = Date.UTC(2026, 2, 6, 9, 12);
export const HISTORY_DAYS = 120;

export const owner = {
  email: 'ines@foldwell.example',
  name: 'Inês Rocha',
  password: 'fold-along-the-grain',
  role: 'owner',
};

export const teacher = {
  email: 'tomasz@foldwell.example',
  name: 'Tomasz Bielak',
  password: 'fold-along-the-grain',
  role: 'editor',
};

/** What the demo's installation begins with, `days` before its present. */
export const bootstrapFor = (days: number) => ({
  workspace: { name: 'Foldwell Bindery', zone: 'Europe/Lisbon', currency: 'EUR' },
  users: [
    owner,
    teacher,
    { email: 'adaeze@foldwell.example', name: 'Adaeze Okoro', password: 'fold-along-the-grain', role: 'reviewer' },
  ],
  attributes: [
    { key: 'first_name', label: 'First name', type: 'text' },
    { key: 'last_name', label: 'Last name', type: 'text' },
    { key: 'language', label: 'Language', type: 'text' },
    { key: 'skill', label: 'Skill', type: 'text', options: ['new', 'some', 'seasoned'] },
    { key: 'plan', label: 'Plan', type: 'text', options: ['none', 'paper club'] },
    { key: 'renews_on', label: 'Renews on', type: 'date' },
    { key: 'birthday', label: 'Birthday', type: 'date' },
    { key: 'paper_weight', label: 'Favourite paper weight', type: 'number' },
    { key: 'orders', label: 'Orders', type: 'number' },
  ],
  sender: { name: 'Inês at Foldwell', email: 'ines@foldwell.example' },
  practiceFrom: DEMO_NOW - days * DAY,
});

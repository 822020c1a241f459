export const FIRST = ['Marta', 'Tiago', 'Oluchi', 'Hanna', 'Jonas', 'Priya', 'Mateus', 'Sigrid', 'Yusuf', 'Clara', 'Emeka', 'Ilse', 'Noor', 'Pavel', 'Rosa', 'Kenji', 'Aino', 'Luca', 'Zofia', 'Amara', 'Henrik', 'Leila', 'Duarte', 'Freya', 'Mei', 'Bruno', 'Edda', 'Samir', 'Vera', 'Owen'];
export const LAST = ['Oyelaran', 'Ferreira', 'Lindqvist', 'Kowalczyk', 'Okafor', 'Brandt', 'Moreau', 'Sato', 'Haddad', 'Novak', 'Marques', 'Virtanen', 'Rossi', 'Iyer', 'Jensen', 'Castro', 'Weber', 'Adeyemi', 'Santos', 'Dahl', 'Petrov', 'Leclerc', 'Tanaka', 'Vidal'];
export const ZONES = ['Europe/Lisbon', 'Europe/Lisbon', 'Europe/Lisbon', 'Europe/London', 'Europe/Berlin', 'Europe/Berlin', 'Europe/Paris', 'Europe/Warsaw', 'Europe/Madrid', 'Europe/Rome', 'Europe/Stockholm', 'Europe/Helsinki', 'Africa/Lagos', 'America/New_York', 'America/Chicago', 'America/Los_Angeles', 'America/Sao_Paulo', 'Asia/Tokyo', 'Asia/Kolkata', 'Australia/Sydney'];
export const KITS = [
  { sku: 'kit-pamphlet', title: 'Pamphlet kit', price: 18 },
  { sku: 'kit-long-stitch', title: 'Long-stitch kit', price: 26 },
  { sku: 'kit-coptic', title: 'Coptic kit', price: 32 },
  { sku: 'paper-cream-120', title: 'Cream paper, 120 g', price: 9 },
  { sku: 'thread-linen', title: 'Waxed linen thread', price: 6 },
];

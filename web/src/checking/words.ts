/** Words that every marketer writes and no dictionary knows (common practice, no published source). */
export const wordsOfTheTrade = [
  'signup', 'signups', 'onboarding', 'ecommerce', 'checkout', 'newsletter', 'newsletters', 'unsubscribe', 'unsubscribed', 'webinar', 'webinars', 'inbox',
  'email', 'emails', 'app', 'online', 'login', 'blog', 'preorder', 'restock', 'restocked', 'lookbook', 'upsell', 'giveaway', 'emoji', 'hashtag', 'wifi',
] as const; // prettier-ignore

import type { CSSProperties } from 'react';
import EmojiPicker, { EmojiStyle, SkinTonePickerLocation, Theme } from 'emoji-picker-react';

/** The picker of the package, drawn with the characters of the machine: nothing is fetched. */
export default function EmojiChoice({ pick }: { pick: (emoji: string) => void }) {
  return (
    <EmojiPicker
      emojiStyle={EmojiStyle.NATIVE}
      theme={Theme.LIGHT}
      lazyLoadEmojis={false}
      // The colours of the house, where the package has its own.
      style={
        {
          fontFamily: 'inherit',
          '--epr-highlight-color': 'var(--color-spruce)',
          '--epr-search-border-color': 'var(--color-spruce)',
          '--epr-category-icon-active-color': 'var(--color-spruce)',
          '--epr-category-label-text-color': 'var(--color-ink-2)',
          '--epr-text-color': 'var(--color-ink-2)',
        } as CSSProperties
      }
      width="100%"
      height={360}
      previewConfig={{ showPreview: false }}
      skinTonePickerLocation={SkinTonePickerLocation.SEARCH}
      onEmojiClick={({ emoji }) => pick(emoji)}
    />
  );
}

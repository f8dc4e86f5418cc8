'use client';

import { Monitor, Moon, Sun } from 'lucide-react';
import { useEffect, useState } from 'react';
import { themeSwitchMessages as messages } from './messages';

const THEMES = ['system', 'light', 'dark'] as const;
type Theme = (typeof THEMES)[number];

const ICONS = { system: Monitor, light: Sun, dark: Moon } as const;
const YEAR_SECONDS = 365 * 24 * 3600;

/** Steps through system, light and dark. Kept in a cookie, so that the server draws the page right at once. */
export function ThemeSwitch() {
  const [theme, setTheme] = useState<Theme>('system');
  useEffect(() => {
    setTheme((document.documentElement.dataset.theme as Theme | undefined) ?? 'system');
  }, []);
  const next = THEMES[(THEMES.indexOf(theme) + 1) % THEMES.length] as Theme;
  const choose = () => {
    setTheme(next);
    if (next === 'system') delete document.documentElement.dataset.theme;
    else document.documentElement.dataset.theme = next;
    // biome-ignore lint/suspicious/noDocumentCookie: the Cookie Store API is not in every browser that we serve.
    document.cookie = `theme=${next}; path=/; max-age=${YEAR_SECONDS}; samesite=strict`;
  };
  const Icon = ICONS[theme];
  return (
    <button
      type="button"
      onClick={choose}
      aria-label={messages.changeTheme(theme, next)}
      title={messages.theme(theme)}
      className="cursor-pointer rounded-control p-1.5 hover:text-on-action"
    >
      <Icon size={18} aria-hidden />
    </button>
  );
}

import { theme as antd, type ThemeConfig } from 'antd';

export type Scheme = 'light' | 'dark';

/** The colours of the application, by what they mean; every one is AA against the paper it stands on. */
const palettes = {
  light: {
    paper: '#fdfcf9',
    sheet: '#ffffff',
    desk: '#f3f1ea',
    ink: '#1c2433',
    muted: '#586172',
    hairline: '#dedacd',
    line: '#b9b4a4',
    published: '#14304d',
    past: '#a9b4c0',
    draft: '#8a4f00',
    accent: '#1b6b60',
    alarm: '#a3213a',
    decision: '#57398c',
    chosen: '#f1efe6',
    inserted: '#dcefe3',
    insertedInk: '#0e5233',
    deleted: '#f8e0dd',
    deletedInk: '#8c1d2c',
    shadow: 'rgba(28,36,51,.10)',
  },
  dark: {
    paper: '#13171e',
    sheet: '#1a1f28',
    desk: '#0e1116',
    ink: '#e9e5db',
    muted: '#a3aab6',
    hairline: '#323945',
    line: '#525b69',
    published: '#a9c9ea',
    past: '#4c5b6d',
    draft: '#e3a65c',
    accent: '#74c8b6',
    alarm: '#f2919c',
    decision: '#c0a6f0',
    chosen: '#222935',
    inserted: '#163a2b',
    insertedInk: '#9fe0bd',
    deleted: '#46202a',
    deletedInk: '#f4b3ba',
    shadow: 'rgba(0,0,0,.45)',
  },
} as const;

/** The palette as custom properties, for our own styles and drawings. */
export function cssVariables(scheme: Scheme): string {
  return Object.entries(palettes[scheme])
    .map(([name, value]) => `--${name}:${value}`)
    .join(';');
}

export const fonts = {
  interface: "'Source Sans 3 Variable', 'Liberation Sans', sans-serif",
  titles: "'Source Serif 4 Variable', 'Liberation Serif', serif",
  numbers: "'JetBrains Mono Variable', 'Liberation Mono', monospace",
};

/** The component library, told to look like us. */
export function themeOf(scheme: Scheme): ThemeConfig {
  const colour = palettes[scheme];
  const still = window.matchMedia('(prefers-reduced-motion: reduce)').matches;
  return {
    algorithm: scheme === 'dark' ? antd.darkAlgorithm : antd.defaultAlgorithm,
    token: {
      motion: !still,
      colorPrimary: colour.ink,
      colorInfo: colour.accent,
      colorLink: colour.accent,
      colorError: colour.alarm,
      colorSuccess: colour.accent,
      colorBgBase: colour.paper,
      colorBgContainer: colour.paper,
      colorBgElevated: colour.sheet,
      colorTextBase: colour.ink,
      colorText: colour.ink,
      colorTextSecondary: colour.muted,
      colorTextTertiary: colour.muted,
      colorTextDescription: colour.muted,
      colorTextPlaceholder: colour.muted,
      colorBorder: colour.line,
      colorBorderSecondary: colour.hairline,
      colorPrimaryHover: colour.published,
      colorPrimaryActive: colour.published,
      colorTextLightSolid: colour.paper,
      borderRadius: 4,
      fontFamily: fonts.interface,
      fontSize: 15,
      controlHeight: 32,
      controlItemBgActive: colour.chosen,
      controlItemBgActiveHover: colour.chosen,
      wireframe: false,
      boxShadow: `0 6px 24px ${colour.shadow}`,
      boxShadowSecondary: `0 8px 28px ${colour.shadow}`,
      motionDurationMid: '0.12s',
      motionDurationSlow: '0.16s',
    },
    components: {
      Button: {
        primaryShadow: 'none',
        defaultShadow: 'none',
        dangerShadow: 'none',
        fontWeight: 600,
        primaryColor: colour.paper,
      },
      Input: { activeShadow: 'none' },
      Form: { itemMarginBottom: 16, labelColor: colour.muted },
      Tooltip: { colorBgSpotlight: colour.ink, colorTextLightSolid: colour.paper },
    },
  };
}

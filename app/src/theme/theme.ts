import { createTheme, type Theme } from '@mui/material';
import { isLowPower } from '../lowPower.ts';
import { palettes, type Mode } from './palette.ts';

declare module '@mui/material/styles' {
  interface TypographyVariants {
    figure: React.CSSProperties;
  }
  interface TypographyVariantsOptions {
    figure?: React.CSSProperties;
  }
}
declare module '@mui/material/Typography' {
  interface TypographyPropsVariantOverrides {
    figure: true;
  }
}

export const monospaced = '"Red Hat Mono Variable", ui-monospace, monospace';
const sans = '"Hanken Grotesk Variable", system-ui, sans-serif';

export function makeTheme(mode: Mode): Theme {
  const p = palettes[mode];
  // also for those whose system says that they want less motion
  const isStill = isLowPower() || globalThis.matchMedia?.('(prefers-reduced-motion: reduce)').matches;
  return createTheme({
    ...(isStill ? { transitions: { create: () => 'none' } } : {}),
    palette: {
      mode,
      primary: { main: p.primary, contrastText: p.onPrimary },
      background: { default: p.ground, paper: p.paper },
      text: { primary: p.ink, secondary: p.inkSoft },
      divider: p.line,
      error: { main: p.bad },
      info: { main: p.primary },
      warning: { main: p.warn },
      success: { main: p.good },
    },
    shape: { borderRadius: 6 },
    typography: {
      fontFamily: sans,
      fontSize: 13,
      htmlFontSize: 16,
      button: { textTransform: 'none', fontWeight: 600 },
      h1: { fontSize: 26, fontWeight: 700, letterSpacing: '-0.01em' },
      h2: { fontSize: 15, fontWeight: 700 },
      h3: { fontSize: 13, fontWeight: 700 },
      body2: { fontSize: 13 },
      caption: { fontSize: 12, lineHeight: 1.45 },
      figure: { fontFamily: monospaced, fontSize: 12.5 },
    },
    components: {
      ...(isStill ? { MuiButtonBase: { defaultProps: { disableRipple: true } } } : {}),
      MuiButton: { defaultProps: { size: 'small', disableElevation: true }, styleOverrides: { root: { minHeight: 32 } } },
      MuiIconButton: { defaultProps: { size: 'small' } },
      MuiTextField: { defaultProps: { size: 'small' } },
      MuiTooltip: { defaultProps: { describeChild: true, enterDelay: 500, enterNextDelay: 100 } },
      MuiSwitch: { defaultProps: { size: 'small' } },
      MuiToggleButton: {
        styleOverrides: {
          root: {
            padding: '3px 10px',
            fontSize: 12.5,
            color: p.ink,
            borderColor: p.line,
            '&.Mui-selected': { background: p.primary, color: p.onPrimary, '&:hover': { background: p.primary } },
          },
        },
      },
      MuiPaper: { styleOverrides: { root: { backgroundImage: 'none' } } },
      MuiCssBaseline: {
        styleOverrides: {
          'html, body, #root': { height: '100%', margin: 0 },
          body: { overflow: 'hidden' },
          ':focus-visible': { outline: `2px solid ${p.primary}`, outlineOffset: 2 },
        },
      },
    },
  });
}

import { Box, IconButton, Link as Anchor, Tooltip, Typography } from '@mui/material';
import BackIcon from '@mui/icons-material/ArrowBack';
import { marked, type Tokens } from 'marked';
import { useEffect, useMemo } from 'react';
import { Link, useLocation } from 'react-router';
import guide from '../../../docs/guide.md?raw';

const slugOf = (text: string) =>
  text
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '-')
    .replace(/^-|-$/g, '');

interface Chapter {
  depth: number;
  text: string;
  slug: string;
}

/** The guide as HTML, its headings to be gone to. It is our own text, and comes with the app. */
function rendered(): { html: string; chapters: Chapter[] } {
  const chapters: Chapter[] = [];
  const renderer = new marked.Renderer();
  renderer.heading = function ({ depth, text, tokens }: Tokens.Heading) {
    const slug = slugOf(text);
    chapters.push({ depth, text, slug });
    return `<h${depth} id="${slug}" tabindex="-1">${this.parser.parseInline(tokens)}</h${depth}>\n`;
  };
  return { html: marked.parse(guide, { renderer, async: false }), chapters };
}

/** The guide, opened where the person is. */
export default function GuidePage() {
  const { hash } = useLocation();
  const { html, chapters } = useMemo(rendered, []);
  useEffect(() => {
    document.title = 'Guide – Jig Peel';
  }, []);
  useEffect(() => {
    const heading = document.getElementById(decodeURIComponent(hash.slice(1)));
    heading?.scrollIntoView();
    heading?.focus({ preventScroll: true });
  }, [hash, html]);
  return (
    <Box sx={{ height: '100%', display: 'flex', bgcolor: 'background.default' }}>
      <Box
        component="nav"
        aria-label="Chapters"
        sx={{ width: 250, flex: 'none', overflow: 'auto', borderRight: 1, borderColor: 'divider', p: 2, display: { xs: 'none', md: 'block' } }}
      >
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 1 }}>
          <Tooltip title="To the jobs">
            <IconButton component={Link} to="/" aria-label="To the jobs">
              <BackIcon />
            </IconButton>
          </Tooltip>
          <Typography variant="h2">Guide</Typography>
        </Box>
        {chapters
          .filter(({ depth }) => depth > 1)
          .map(({ depth, text, slug }) => (
            <Anchor
              key={slug}
              component={Link}
              to={`#${slug}`}
              variant="body2"
              underline="hover"
              color="text.primary"
              aria-current={hash === `#${slug}` ? 'location' : undefined}
              sx={{
                display: 'block',
                py: 0.4,
                pl: depth === 2 ? 1 : 3,
                borderLeft: 3,
                borderColor: hash === `#${slug}` ? 'primary.main' : 'transparent',
                fontWeight: depth === 2 ? 600 : 400,
              }}
            >
              {text}
            </Anchor>
          ))}
      </Box>
      <Box component="main" tabIndex={-1} sx={{ flex: 1, overflow: 'auto', px: 4, py: 3 }}>
        <Box
          component="article"
          dangerouslySetInnerHTML={{ __html: html }}
          sx={{
            maxWidth: 760,
            lineHeight: 1.6,
            fontSize: 14.5,
            '& h1': { typography: 'h1' },
            '& h2': { typography: 'h1', fontSize: 20, mt: 5, pt: 1, borderTop: 1, borderColor: 'divider' },
            '& h3': { typography: 'h2', mt: 3 },
            '& h2:focus, & h3:focus': { outline: 'none' },
            '& table': { borderCollapse: 'collapse', my: 2 },
            '& td, & th': { border: 1, borderColor: 'divider', px: 1.25, py: 0.5, textAlign: 'left', verticalAlign: 'top' },
            '& code': { typography: 'figure', bgcolor: 'background.paper', px: 0.5, borderRadius: 0.5 },
            '& pre': { bgcolor: 'background.paper', border: 1, borderColor: 'divider', p: 1.5, borderRadius: 1, overflow: 'auto' },
            '& pre code': { p: 0 },
            '& a': { color: 'primary.main' },
          }}
        />
      </Box>
    </Box>
  );
}

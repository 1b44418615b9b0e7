import { GlobalStyles, styled } from '@mui/material';
import { MaterialDesignContent, SnackbarProvider } from 'notistack';
import { handSnackbars } from './snackbars.ts';

/** Notices in the app's own colours, which are checked for contrast. */
const NoticeContent = styled(MaterialDesignContent)(({ theme }) => ({
  '&.notistack-MuiContent': { fontFamily: theme.typography.fontFamily, fontSize: 13, padding: '4px 14px', flexWrap: 'nowrap', maxWidth: 400 },
  '&.notistack-MuiContent-default': { backgroundColor: theme.palette.text.primary, color: theme.palette.background.paper },
  '&.notistack-MuiContent-success': { backgroundColor: theme.palette.primary.main, color: theme.palette.primary.contrastText },
  '&.notistack-MuiContent-warning': { backgroundColor: theme.palette.warning.main, color: theme.palette.background.paper },
  '&.notistack-MuiContent-error': { backgroundColor: theme.palette.error.main, color: theme.palette.background.paper },
}));
const contents = { default: NoticeContent, success: NoticeContent, warning: NoticeContent, error: NoticeContent };

/** Where notices come up for a moment; loaded with the first of them. */
export default function Notices() {
  return (
    <>
      {/* they stand over the sheet: what is under them can still be taken, drawn and brushed; only their buttons take the pointer */}
      <GlobalStyles
        styles={{
          '.notistack-SnackbarContainer *': { pointerEvents: 'none !important' },
          '.notistack-SnackbarContainer button': { pointerEvents: 'auto !important' },
        }}
      />
      <SnackbarProvider
        ref={handSnackbars}
        maxSnack={3}
        // over the sheet's empty corner, above the figures of the selection: clear of every control
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        Components={contents}
        autoHideDuration={4500}
        style={{ marginBottom: 118, maxWidth: 400 }}
      />
    </>
  );
}

import type { Notice, NoticesSlice, Slice } from './benchState.ts';

let noticeCounter = 0;
/** The notices with one more, the newest fifty. */
export const withNotice = (
  notices: Notice[],
  text: string,
  severity: Notice['severity'],
  action?: Notice['action'],
  takesBack?: Notice['takesBack'],
): Notice[] => [...notices, { id: ++noticeCounter, text, severity, time: Date.now(), action, takesBack }].slice(-50);

export const noticesSlice: Slice<NoticesSlice> = (set) => ({
  notices: [],
  notice: (text, severity, action, takesBack) => set((s) => ({ notices: withNotice(s.notices, text, severity, action, takesBack) })),
});

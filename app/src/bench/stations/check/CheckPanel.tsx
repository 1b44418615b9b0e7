import { LimitsCard } from './LimitsCard.tsx';
import { ReportCard } from './ReportCard.tsx';

/** Whether the layout is done: its limits, a report of them. */
export default function CheckPanel() {
  return (
    <>
      <LimitsCard />
      <ReportCard />
    </>
  );
}

import { LimitsCard } from './LimitsCard.tsx';
import { PicturesCard } from './PicturesCard.tsx';
import { ReportCard } from './ReportCard.tsx';
import { VersionsCard } from './VersionsCard.tsx';

/** Whether the layout is done: its limits, versions to go back to, a report. */
export default function CheckPanel() {
  return (
    <>
      <LimitsCard />
      <VersionsCard />
      <PicturesCard />
      <ReportCard />
    </>
  );
}

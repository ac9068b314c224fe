import { DrawerTabs } from "../controls/DrawerTabs";
import { Missing } from "../controls/Missing";
import { Card } from "./Card";
import { useLooked, useOutline } from "./outline";
import { ReplayTab } from "./ReplayTab";
import { ReportTab } from "./ReportTab";

/** The exhibit that is looked at, the report of all, and what is kept asked again of another result. */
export function ExhibitsDrawer() {
  return (
    <div data-testid="exhibits">
      <DrawerTabs
        bay="exhibits"
        name="Exhibits"
        tabs={[
          { tab: "leaf", label: "Exhibit", drawn: () => <LeafTab /> },
          { tab: "report", label: "Report", drawn: () => <ReportTab /> },
          { tab: "replay", label: "Replay", drawn: () => <ReplayTab /> },
        ]}
      />
    </div>
  );
}

function LeafTab() {
  const outline = useOutline();
  const looked = useLooked();
  if (looked) return <Card key={looked.id} exhibit={looked} />;
  return (
    <div className="quiet">
      <Missing asked={outline} reading="Reading the exhibits …" empty={<>Nothing kept yet.</>} />
    </div>
  );
}

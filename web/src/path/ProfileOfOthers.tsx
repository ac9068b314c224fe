import { AnswerLeaves } from "../controls/AnswerLeaves";
import { OtherResults } from "../controls/OtherResults";
import { useProfilesOf, useProfilesOfWords } from "../lines/profilesOf";
import { figure, percent } from "../reading/format";

/** The first profile of other results, on the same plot, and how far each is from this one. */
export function ProfileOfOthers() {
  const asked = useProfilesOf();
  const words = useProfilesOfWords();
  const answer = asked.data;
  const [unit, across] = [answer?.unit ?? "", answer?.more.x_unit ?? ""];
  return (
    <OtherResults
      what="profile"
      tab="profile"
      asked={words !== null}
      rows={answer?.more.profiles}
      error={asked.error}
      said={(p) =>
        [
          p.ratio !== null && `largest, this one over it ${figure(p.ratio, 4)}`,
          p.deviation !== null && `RMS ${percent(p.deviation, 3)}`,
          p.largest !== null && `most ${figure(p.largest)} ${unit} at ${figure(p.largest_at)} ${across}`,
        ]
          .filter(Boolean)
          .join("; ")
      }
    >
      {words && <AnswerLeaves what="Profiles" kind="profiles-of" words={words} name="profile of several results" />}
    </OtherResults>
  );
}

import type { Offer } from "../exhibits/offers";
import { useGauges, useGaugeWords } from "../lines/gauges";
import { useProfiles } from "../lines/profiles";
import { useProfilesOf, useProfilesOfWords } from "../lines/profilesOf";
import { plotPicture } from "../plots/Plot";
import { profileFigure } from "../plots/ProfilePlot";

/** The profiles that are drawn, the first by its numbers, and the gauges. */
export function usePathOffers(): Offer[] {
  const profiles = useProfiles(true).filter((p) => p.answer);
  const first = profiles.find((p) => !p.held) ?? profiles[0];
  const [others, ofOthers] = [useProfilesOf().data?.more.profiles, useProfilesOfWords()];
  const words = useGaugeWords();
  const gauges = useGauges().data;
  return [
    {
      name: "profile",
      label: "the profile",
      of: "curve",
      usual: first?.label ?? "Profile",
      sentence: first?.answer?.sentence,
      questions: first
        ? [{ kind: "profile", words: first.words }, ...(ofOthers ? [{ kind: "profiles-of", words: ofOthers }] : [])]
        : [],
      picture: (caption) => plotPicture({ ...profileFigure(profiles, others), caption }, "png"),
    },
    {
      name: "gauges",
      label: "the gauges",
      of: "table",
      usual: "Gauges",
      sentence: gauges?.sentence,
      questions: words ? [{ kind: "gauges", words }] : [],
    },
  ];
}

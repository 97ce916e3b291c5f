import { api, type CutOutOffer, type CutOutStanding } from "../api/client";
import { queries, useServer } from "../state/server";

const OFFERS = ["cut-outs"];
const NO_OFFERS: CutOutOffer[] = [];
const NONE: CutOutStanding[] = [];

/** The catalogue of cut-outs. */
export const useOffers = (): CutOutOffer[] => useServer(OFFERS, api.cutOuts, { told: true }) ?? NO_OFFERS;

/** Ask for the catalogue anew: a picture of one's own came or went. */
export const offersChanged = () => queries.invalidateQueries({ queryKey: OFFERS });

/** Where the cut-outs of a view are seen in its picture. `of` is all that hangs on: the cut-outs, the view, the hour. */
export const useStanding = (slug: string, view: string, occasion: string, of: unknown): CutOutStanding[] =>
  useServer(
    ["standing cut-outs", slug, view, occasion, of],
    () => api.cutOutsStanding(slug, view, occasion),
    {
      ready: Array.isArray(of) && of.length > 0,
    },
  ) ?? NONE;

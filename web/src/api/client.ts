import createClient from "openapi-fetch";
import type { components, paths } from "./schema";
import { counted } from "./waiting.svelte";

type Schemas = components["schemas"];
export type Show = Schemas["Show"];
export type ImportedSheet = Schemas["ImportedSheet"];
export type Device = Schemas["Device"];
export type Controller = Schemas["Controller"];
export type Layout = Schemas["Layout"];
export type Control = Schemas["Control"];
export type Page = Schemas["Page"];
export type Me = Schemas["Me"];
export type PeopleDoc = Schemas["PeopleDoc"];
export type Who = Schemas["Who"];
export type Pairing = Schemas["Pairing"];
export type Output = Schemas["Output"];
export type Terms = Schemas["Terms"];
export type Rights = Schemas["Rights"];
export type Addresses = Schemas["Addresses"];
export type DoorsConfig = Schemas["DoorsConfig"];
export type Announced = Schemas["Announced"];
export type Reflex = Schemas["Reflex"];
export type ReflexState = Schemas["ReflexState"];
export type ReflexForm = Schemas["ReflexForm"];
export type ReflexOn = Schemas["ReflexOn"];
export type Night = Schemas["Night"];
export type PastEvent = Schemas["PastEvent"];
export type TriedReflex = Schemas["TriedReflex"];
export type Turned = Schemas["Turned"];
export type Timeline = Schemas["Timeline"];
export type Timer = Schemas["Timer"];
export type Overlay = Schemas["Overlay"];
export type OverlayAddress = Schemas["OverlayAddress"];
export type SafeRow = Schemas["SafeRow"];
export type Role = Schemas["Who"]["role"];
export type Hardware = Schemas["Hardware"];
export type Learned = Schemas["Learned"];
export type Binding = Schemas["Binding"];
export type Touch = Schemas["Touch"];
export type ControllerRow = Schemas["ControllerRow"];
export type Mapping = Schemas["Mapping"];
export type PageMap = Schemas["PageMap"];
export type Face = Schemas["Face"];
export type Path = Schemas["Path"];
export type FaceSpec = Schemas["FaceSpec"];
export type LampFields = Schemas["LampFields"];
export type Sentence = Schemas["Sentence"];
export type NamedValue = Schemas["NamedValue"];
export type Media = Schemas["Media"];
export type Param = Schemas["Param"];
export type FindResult = Schemas["FindResult"];
export type KitPlan = Schemas["KitPlan"];
export type LinkState = Schemas["LinkState"];
export type Reading = Schemas["Reading"];
export type StatusItem = Schemas["StatusItem"];
export type Entry = Schemas["Entry"];
export type FrontPanel = Schemas["FrontPanel"];
export type StandIn = Schemas["StandIn"];
export type Faults = Schemas["Faults"];
export type ActionDoc = Schemas["ActionDoc"];
export type Choice = Schemas["Choice"];
export type DeviceEvent = Schemas["DeviceEvent"];
export type DeviceFields = Schemas["DeviceFields"];
export type Tested = Schemas["Tested"];
export type Found = Schemas["Found"];
export type WireLine = Schemas["WireLine"];
export type EditRow = Schemas["EditRow"];
export type MacroRow = Schemas["MacroRow"];
export type Macro = Schemas["Macro"];
export type MacroStep = Schemas["MacroStep"];
export type MacroStepChange = Schemas["MacroStepChange"];
export type NewMacroStep = Schemas["NewMacroStep"];
export type PlanBar = Schemas["PlanBar"];
export type Finding = Schemas["Finding"];
export type Preflight = Schemas["PreflightDoc"];
export type WeighedFinding = Schemas["WeighedFinding"];
export type NightRehearsal = Schemas["NightRehearsal"];
export type NightRow = Schemas["NightRow"];
export type RollCallRow = Schemas["RollCallRow"];
export type RolledRow = Schemas["RolledRow"];
export type SafeRehearsal = Schemas["SafeRehearsal"];
export type FixPreview = Schemas["FixPreview"];
export type Findings = Schemas["Findings"];
export type Rehearsed = Schemas["Rehearsed"];
export type Run = Schemas["Run"];
export type LeftOver = Schemas["LeftOver"];
export type Recording = Schemas["Recording"];
export type Returned = Schemas["Returned"];
export type Desk = Schemas["Desk"];
export type Marker = Schemas["Marker"];
export type Span = Schemas["Span"];
export type Use = Schemas["Use"];
export type Closing = Schemas["Closing"];
export type ClosedNight = Schemas["ClosedNight"];
export type NightReport = Schemas["NightReport"];
export type PutBackPlan = Schemas["PutBackPlan"];
export type ShowList = Schemas["ShowList"];
export type ShowInfo = Schemas["ShowInfo"];
export type Opening = Schemas["Opening"];
export type ArchiveParts = Schemas["ArchiveParts"];
export type PartRow = Schemas["PartRow"];
export type ArchiveDoc = Schemas["ArchiveDoc"];
export type Backups = Schemas["Backups"];
export type Version = Schemas["Version"];
export type Difference = Schemas["Difference"];
export type Problem = Schemas["Problem"];
export type LiveUpdate = Schemas["LiveUpdate"];
export type LiveError = Schemas["LiveError"];
export type LiveInput = Schemas["LiveInput"];
export type LiveMessage = Schemas["LiveMessage"];

export const api = createClient<paths>({ baseUrl: "/" });

let entering = false;

/** Sets the first passphrase: between that and its answer nobody is let in, which says nothing about whoever sets it. */
export async function enters<T>(ask: () => Promise<T>): Promise<T> {
  entering = true;
  try {
    return await ask();
  } finally {
    entering = false;
  }
}

/** Whoever may not be here any more signs in again. */
export async function mayStay() {
  if (entering) return;
  const { data, response } = await api.GET("/api/v1/me");
  if (!entering && (response.status === 401 || (data?.claimed && !data.role))) signIn();
}

/** Goes to where one signs in, or a panel is paired again, and comes back from there. */
function signIn() {
  const panel = /^\/(panel|legend)/.test(location.pathname);
  const to = encodeURIComponent(location.pathname + location.search);
  location.href = panel ? `/pair?lost=1&to=${to}` : `/sign-in?to=${to}`;
}

api.use(counted, {
  onResponse: ({ response }) => {
    if (response.status === 401 && !response.url.endsWith("/api/v1/me")) void mayStay();
  },
});

/** What a failed request says, by field where it is about one. */
export function fieldsOf(p: Problem | undefined): Record<string, string> {
  return Object.fromEntries((p?.fields ?? []).map((f) => [f.field, f.text]));
}

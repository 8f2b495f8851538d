// Short names for the API's types. The types themselves are generated from the server's.
import type { components } from "./schema";

type Schemas = components["schemas"];

export type JobView = Schemas["JobView"];
export type JobState = Schemas["JobState"];
export type YardJob = Schemas["YardJob"];
export type WaitingFor = Schemas["WaitingFor"];
export type Entry = Schemas["Entry"];
export type NewEntry = Schemas["NewEntry"];
export type Finding = Schemas["Finding"];
export type FindingKind = Finding["kind"];
export type FindingOf<K extends FindingKind> = Extract<Finding, { kind: K }>;
export type Move = Schemas["Move"];
export type PlaceName = Schemas["PlaceName"];
export type CylinderState = Schemas["CylinderState"];
export type TaggedPart = Schemas["TaggedPart"];
export type NextMove = Schemas["NextMove"];
export type SwapPlan = Schemas["SwapPlanResult"];
export type Caution = Schemas["Caution"];
export type Ember = Schemas["Ember"];
export type Effect = Schemas["Effect"];
export type NeedShown = Schemas["NeedShown"];
export type Road = Schemas["Road"];
export type Station = Schemas["Station"];
export type ProofShown = Schemas["ProofShown"];
export type StoredVehicle = Schemas["StoredVehicle"];
export type Vehicle = Schemas["Vehicle"];
export type Engine = Schemas["Engine"];
export type EngineDescription = Schemas["EngineDescription"];
export type CounterReading = Schemas["CounterReading"];
export type CodeReading = Schemas["CodeReading"];
export type Quantity = Schemas["Quantity"];
export type Dimension = Schemas["Dimension"];
export type Problem = Schemas["Problem"];
export type Refusal = Schemas["Refusal"];
export type CylinderRate = Schemas["CylinderRate"];

/** Short names for the generated types; the schema comes from the core's models. */
import type { components as sent } from "./commands.gen";
import type { components } from "./schema.gen";

type S = components["schemas"];

export type Me = S["MeOut"];
export type Card = S["CardOut"];
export type CardPage = S["PageOut"];
export type OwnMaterial = S["OwnMaterial"];
export type Material = S["MaterialOut"];
export type Part = S["PartOut"];
export type PartChanges = S["PartChangesOut"];
export type Doc = Part["document"];
export type Step = NonNullable<Doc["steps"]>[number];
export type SketchStep = Extract<Step, { on: unknown }>;
export type ExtrudeStep = Extract<Step, { extent: unknown }>;
export type BodyStep = Extract<Step, { kind: "body" }>;
export type Sketch = NonNullable<SketchStep["sketch"]>;
export type Entity = NonNullable<Sketch["entities"]>[number];
export type Constraint = NonNullable<Sketch["constraints"]>[number];
export type Dimension = NonNullable<Sketch["dimensions"]>[number];
export type Callout = NonNullable<Doc["callouts"]>[number];
export type SketchState = S["SketchOut"];
export type Build = S["BuildOut"];
export type Body = S["BodyOut"];
export type Face = S["FaceOut"];
export type Edge = S["EdgeOut"];
export type Frame = S["FrameOut"];
export type StepReport = S["StepOut"];
export type StepOffers = StepReport["offers"];
export type RefusedDetail = S["RefusedOut"]["detail"];
export type Verdict = S["VerdictOut"];
export type Motion = S["MotionOut"];
export type Advice = S["AdviceOut"];
export type Place = S["PlaceOut"];
/** What is sent to change a part; fields with a default may be left out. */
export type Command = sent["schemas"]["CommandIn"]["command"];
/** One that may be carried out together with others. */
export type SingleCommand = Exclude<Command, { do: "together" }>;

export type XY = [number, number];
export type XYZ = [number, number, number];

export const isSketch = (s: Step): s is SketchStep => s.kind === "sketch";
export const isExtrude = (s: Step): s is ExtrudeStep => s.kind === "extrude";
export type PartEdge = S["EdgeOnOfferOut"];
export type Check = S["CheckOut"];
export type Finding = S["FindingOut"];
export type Mending = S["MendingOut"];
export type SheetReading = S["ReadingOut"];
export type Inspection = S["InspectionOut"];
export type SheetLines = S["SheetLinesOut"];
export type SheetViewLines = S["ViewOut"];
export type LinePiece = S["PieceOut"];
export type Proposed = S["ProposedOut"];
export type Checked = S["CheckedOut"];

export type ShopLimits = S["ShopLimits"];
export type MassFigures = S["MassFiguresOut"];
export type Drivers = S["DriversOut"];
export type Driver = S["DriverOut"];
export type MassBand = S["BandOut"];
export type Met = S["MetOut"];
export type Weighing = S["WeighingOut"];
export type ChangedPart = S["ChangedOut"];
export type Measured = S["MeasuredOut"];
export type DrawnSheet = S["DrawingSheetOut"];
export type DrawnSize = S["SheetSizePlaced"];
export type DrawnView = S["SheetViewPlaced"];
export type DrawingSheet = S["DrawingSheet"];
export type Release = S["ReleaseOut"];
export type Revision = S["RevisionOut"];
export type Condition = S["ConditionOut"];
export type RevisionCompared = S["RevisionComparedOut"];
export type ReferenceMesh = S["ReferenceMesh"];
export type MeshCompared = S["MeshComparedOut"];
export type MeshFitted = S["MeshFittedOut"];
export type RevisionShapes = S["RevisionShapesOut"];
export type WorkspaceShop = S["WorkspaceShopOut"];

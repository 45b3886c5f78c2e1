// What the pages' scripts share, for the type checker only: what each part puts on window, and what browsers lack
// in their own types. Nothing of it ships.

interface Chosen { master: number; export: number; ssim: string; psnr: string; seen: string; worst: string }
interface Box { x: number; y: number; w: number; h: number }
interface Clock { frame: number; counted: number; drop: boolean }

interface View { yaw: number; pitch: number; fov: number; degrees?: number }

interface Window {
  htmx: { ajax(verb: string, path: string, how: object): Promise<void>; trigger(element: Element, name: string): void; process(element: Element): void };
  skConnection: { returned(): Promise<unknown>; alive(): Promise<boolean> };
  skPicture(address: string, name: string): Promise<HTMLImageElement>;
  skTimecode(clock: Clock): { at(frame: number): string; frameOf(text: string): number };
  skRoomy(how: { root: HTMLElement; canvas: HTMLCanvasElement; below(): number[]; draw(): void }): { large: boolean; resize?(): void; toggle?(): boolean };
  skPlayer: { make(how: PlayerNeeds): Player };
  skOverlay: { draw(pen: CanvasRenderingContext2D, ink: string, box: Box, how: { kind: string; promised: Box; circle: number }): void };
  skRemarks: { draw(pen: CanvasRenderingContext2D, styles: CSSStyleDeclaration, box: Box, frame: number, spot: Point): void; mixin(): LookPart };
  skSphere: { make(plain: boolean): any; place(view: View, l: number, b: number, wide: number, high: number): number[] | null; direction(view: View, x: number, y: number, wide: number, high: number): number[] };
  skGlasses: any;
  skAlternate(each: number, on: () => boolean, turn: () => void): () => void;
  skLabel: {
    width(pen: CanvasRenderingContext2D, text: string, size?: number): number;
    draw(pen: CanvasRenderingContext2D, styles: CSSStyleDeclaration, text: string, x: number, y: number, size?: number): void;
  };
  skLook: Record<string, () => LookPart>;
  skReceived: Record<string, () => ReceivedPart>;
  skAround: Record<string, () => AroundPart>;
}
interface PlayerNeeds {
  address(frame: number): string;
  step: number;
  rate: number;
  last: number;
  show(video: HTMLVideoElement, frame: number): void;
  end(error?: Error): void;
}
interface Player { prepare(frame: number): void; play(frame: number, speed?: number): void; stop(): void; stretch(from: number | null, to?: number | null): void }

// Alpine's own build has no types: what it adds to `this` beside a component's own things.
interface Magics {
  $root: HTMLElement;
  $el: HTMLElement;
  $refs: Record<string, any>;
  $dispatch(name: string, detail?: object): void;
  $nextTick(then?: () => void): Promise<void>;
}
declare const Alpine: { data<T extends object>(name: string, make: () => T & ThisType<T & Magics>): void };

// What the parts of Look find in each other: state and deeds that look.js puts together.
type Picture = HTMLImageElement;
type Row = [number, number, string, string, string, string];
type Point = { x: number; y: number };
interface Look extends Magics {
  turnOver(): void;
  WAYS: string[]; MOST_ZOOM: number;
  rows: Row[]; index: number; areas: number[][]; rect: number[]; display: string; worst: number; words: string;
  pictures: { master: Picture; export: Picture; difference: Picture; whole?: boolean };
  way: string; line: number; zoom: number; centre: Point; over: string; stored: boolean; showsExport: boolean; large: boolean;
  probing: boolean; scoping: boolean; spot: Box; held: { point: Point; from?: Point; pans?: boolean };
  playing: boolean; speed: number; film: HTMLVideoElement; stretch: [number, number];
  player: Player; timecode: ReturnType<Window["skTimecode"]>; room: ReturnType<Window["skRoomy"]>;
  note: string; loading: boolean; waiting: boolean; makePlayer(): Player; ready(): void; recall(): void; goTo(event: Event): void;
  loadDifference(): void; fetch(path: string, name: string): Promise<Picture>; tell(): void; hasten(way: number): void; togglePlay(): void; toggleProbe(): void;
  toggleRemark(): void; toggleStored(): void; toggleLarge(): void; setDisplay(): void; nextWorst(): void; nextOver(): void; nextEyes(): void; markFrom(): void;
  markTo(): void; clearStretch(): void; stepFrame(by: number): void; step(dx: number, dy: number, large: boolean): void; moveLine(by: number): void; widen(by: number): void; fit(): void;
  oneToOne(): void; key(event: KeyboardEvent): void; drag(event: PointerEvent): void;
  askProbe(): void; askScopes(): void; prepareProbe(): void; scopesPlace(): HTMLElement;
  chosen(): Chosen; rowOf(frame: number): number; load(index: number): void; still(side: string, whole?: boolean): Promise<Picture>;
  say(more?: string): void; tellNote(): void; draw(): void; go(way: string): void; remember(): void; ask(): void; stop(): void;
  playAt(speed: number): void; follow(frame: number): void; putStretch(stretch: [number, number] | null): void; markStretch(from: number, to: number): void;
  shapeOf(picture: Picture): number; place(picture: Picture, left: number, width: number, height: number): Box; parts(): any[][];
  at(event: PointerEvent | WheelEvent): Point; isExport(point: Point): boolean; boxUnder(point: Point): Box; inPicture(point: Point): Point; inside(box: Box): Box;
  resize(factor: number): void; setZoom(zoom: number): void; pan(dx: number, dy: number): void; sharpen(): void; toggleScopes(): void;
  scale(pen: CanvasRenderingContext2D, styles: CSSStyleDeclaration, height: number): void;
  outline(pen: CanvasRenderingContext2D, styles: CSSStyleDeclaration, box: Box): void;
  mark(pen: CanvasRenderingContext2D, styles: CSSStyleDeclaration, box: Box): void;
  lay(pen: CanvasRenderingContext2D, styles: CSSStyleDeclaration, side: string, box: Box): void;
  label(pen: CanvasRenderingContext2D, styles: CSSStyleDeclaration, text: string, x: number, y: number): void;
  remarking: boolean; remarkSpot: Point; remarkWhere: string; remarkAt(point: Point): void; putRemark(): void;
}
type LookPart = object & ThisType<Look>;

// The same of Received and of Around.
type Rendition = { name: string; step: number; rate: number; series: [number, number, number, number | null][]; frames: number[] };
interface Received extends Magics {
  turnOver(): void;
  renditions: Rendition[]; rendition: Rendition; frame: number; at: number; first: number; last: number; asked: number; later: number; turnWorst: number;
  pictures: { sent: Picture; got: Picture }; film: HTMLVideoElement; wanted: boolean; exact: boolean; playing: boolean; showsReceived: boolean; large: boolean;
  way: string; line: number; zoom: number; centre: Point; yaw: number; pitch: number; held: Point & { pans?: boolean }; words: string; room: ReturnType<Window["skRoomy"]>;
  query(): string; change(): void; nearest(frame: number): number; load(first: number): void; go(place: number): void; seek(): void; goOn(): void; still(): void; tell(): void;
  worst(): void; togglePlay(): void; play(): void; stop(): void; toggleLarge(): void; setLayout(way: string): void; sources(): any[][]; draw(): void;
  name(pen: CanvasRenderingContext2D, styles: CSSStyleDeclaration, side: number, left: number, wide: number, height: number): void;
  place(event: PointerEvent): Point; drag(event: PointerEvent): void; setZoom(zoom: number): void; pan(dx: number, dy: number): void; turn(yaw: number, pitch: number): void;
  key(event: KeyboardEvent): void;
}
type ReceivedPart = object & ThisType<Received>;
type Side = { left: number[]; degrees: number; ahead: number[]; width: number };
interface Around extends Magics {
  turnOver(): void;
  rows: Row[]; sides: Record<string, Side>; index: number; way: string; line: number; yaw: number; pitch: number; fov: number;
  marks: boolean; playing: boolean; showsExport: boolean; view: string; gets: string; drawn: string; words: string;
  load(index: number): void; draw(coarse?: boolean): void; home(): void; behind(): void; stop(): void; play(): void; toggle(): void; toggleMarks(): void; go(way: string): void;
  fetch(path: string, name: string): Promise<Picture>; parts(): any[][]; looking(side: string): View; cellOf(side: string): number[]; uploadAll(): void; middle(): number;
  pickFaster(): void; mark(pen: CanvasRenderingContext2D, styles: CSSStyleDeclaration, side: string, left: number, wide: number, height: number): void;
  drawFlat(styles: CSSStyleDeclaration, picture: any, half: boolean): void; tell(): void; turn(dx: number, dy: number): void; setFov(fov: number): void; moved(): void;
  showPlayed(video: HTMLVideoElement, frame: number): void; key(event: KeyboardEvent): void;
}
type AroundPart = object & ThisType<Around>;

// Pages are our own: what a selector finds in them is what its script says that it needs.
interface EventTarget { closest(selectors: string): any; getAttribute(name: string): string }
interface Event { detail?: any; key?: string; ctrlKey?: boolean; metaKey?: boolean; altKey?: boolean }
interface ParentNode { querySelector(selectors: string): any; querySelectorAll(selectors: string): NodeListOf<any> }
interface Document { getElementById(id: string): any }

/**
 * Nuxt UI in Vornak's identity, in the order of precedence:
 *
 * 1. Tokens in `assets/main.css`: `--ui-*`, `--text-*`, `--radius-*` point at ours, which dresses most of every
 *    component in both themes. Element rules there sit in `@layer base`; what is in no layer would beat every utility.
 * 2. `nuxt.config`: the colours that have a meaning here, no transitions.
 * 3. This file: size, shape, and what tokens cannot say. Classes are merged over Nuxt UI's: same property and same
 *    prefix (`hover:`, `data-…:`) replaces, anything else is added. What Nuxt UI sets in a compoundVariant is only
 *    reached by a later compoundVariant; one without conditions has the last word. `defaultVariants` may name any prop.
 */

import { focusFirst } from './composables/first-focus'

/**
 * What one component may say here. Nuxt UI's own types know neither a slot inside a variant nor a prop in
 * `defaultVariants`, though it takes both.
 */
interface Part {
  base?: string
  slots?: Record<string, string>
  variants?: Record<string, Record<string, string | Record<string, string>>>
  compoundVariants?: ({ class: string | Record<string, string> } & Record<string, unknown>)[]
  defaultVariants?: Record<string, unknown>
}

/** Controls are 28 px, 24 in rows and toolbars, 20 inside a cell; fixed, so that text sizes cannot move them. */
const FIELD = { xs: 'h-5 px-1 py-0 gap-1', sm: 'h-6 px-1.5 py-0 gap-1', md: 'h-7 px-2 py-0 gap-1.5', lg: 'h-8 px-2.5 py-0', xl: 'h-9 px-3 py-0' }
const field = (more: (size: string) => Record<string, string> = () => ({})) => Object.fromEntries(Object.entries(FIELD).map(([size, base]) => [size, { base, leading: size === 'md' ? 'ps-2' : 'ps-1.5', trailing: size === 'md' ? 'pe-2' : 'pe-1.5', leadingIcon: 'size-3.5', trailingIcon: 'size-3.5', ...more(size) }]))
/** Room for an icon of 14 px, and small ones read at 12. */
const ICON_ROOM = [
  { leading: true, size: 'md', class: 'ps-7' }, { leading: true, size: 'sm', class: 'ps-6' },
  { trailing: true, size: 'md', class: 'pe-7' }, { trailing: true, size: 'sm', class: 'pe-6' },
]
/** Edge of a control darkens under the pointer as `.btn` did; a broken field says so by its edge and its sentence. */
const EDGE = 'hover:ring-inverted aria-invalid:ring-error disabled:opacity-100 disabled:text-muted disabled:bg-transparent disabled:ring-default'
/** A field whose parts take the focus shows it as a whole. */
const WHOLE_FOCUS = 'outline-primary has-focus-visible:outline-2 has-focus-visible:outline-offset-1'

/** Sheets over the screen: a hairline dark enough to be an edge, no shadow, no growing. */
const SHEET = 'rounded-md ring ring-accented shadow-none data-[state=open]:animate-none data-[state=closed]:animate-none'
/** Rows of menus and lists: 26 px, the chosen one on the ground of a selection. */
const ROW = 'px-2 py-1 text-sm gap-2 items-center before:inset-x-0 before:inset-y-0 before:rounded-sm'
const ROW_ON = 'data-highlighted:before:bg-(--sel) data-[state=open]:before:bg-(--sel) data-disabled:opacity-100 data-disabled:text-muted'
const ROW_PARTS = { itemLeadingIcon: 'size-3.5', itemTrailingIcon: 'size-3.5', label: 'px-2 py-1 text-xs font-normal text-muted' }
const menu = {
  slots: { content: `min-w-44 ${SHEET}`, separator: 'my-1', itemTrailingKbds: 'inline-flex' },
  variants: { size: { md: { item: ROW, ...ROW_PARTS, itemTrailingKbdsSize: 'sm' } } },
  // The highlight sits in Nuxt UI's variant `active`: a slot would come too early. Destructive entries are brick.
  compoundVariants: [{ active: false, class: { item: ROW_ON } }, { color: 'error', active: false, class: { item: 'data-highlighted:before:bg-(--brickbg)' } }],
}
const list = {
  slots: { content: `max-h-72 ${SHEET}`, item: `${ROW_ON} data-highlighted:not-data-disabled:before:bg-(--sel)` },
  variants: { size: field(size => size === 'sm' || size === 'md' ? { item: ROW, ...ROW_PARTS, empty: 'px-2 py-2 text-sm text-start' } : {}) },
  compoundVariants: [...ICON_ROOM, { class: { base: EDGE } }, { variant: 'outline', class: { base: 'hover:bg-default' } }],
}
/** Dialogs: title 15/20, 12 px of margin, the acts at the right foot. */
const dialog = {
  header: 'px-4 py-3 sm:px-4 min-h-0 items-start gap-3', wrapper: 'pe-8', title: 'text-[15px]/5 font-semibold', description: 'mt-0.5 text-sm max-w-[64ch]',
  body: 'px-4 py-3 sm:p-4 sm:py-3', footer: 'px-4 py-2 sm:px-4 justify-end', close: 'top-2.5 end-2.5',
}
/** A veil of the paper, not a black one: the plan under it can still be read. */
const VEIL = 'bg-(--bg)/70'

/** Figures stand close, as they are read: 27/11/2026, 15:59. */
const date = (segments: string) => ({
  slots: { segment: 'rounded-xs px-px data-[segment=literal]:px-0 not-data-[segment=literal]:h-6 not-data-[segment=literal]:min-w-6 inline-flex items-center justify-center' },
  variants: { size: field(() => ({ segment: segments })) },
  compoundVariants: [...ICON_ROOM, { class: { base: `${WHOLE_FOCUS} gap-0 hover:ring-inverted aria-invalid:ring-error data-disabled:text-muted data-disabled:ring-default`, segment: 'focus:bg-(--sel)' } }],
})

const parts = {
  // A button is an edge and ink. Solid petrol is asked for, once a screen; brick by colour.
  button: {
    slots: { base: 'rounded-md font-medium whitespace-nowrap cursor-pointer', leadingIcon: 'text-current', trailingIcon: 'text-current' },
    variants: {
      size: {
        xs: { base: 'h-5 px-1.5 py-0 text-xs gap-1', leadingIcon: 'size-3', trailingIcon: 'size-3' },
        sm: { base: 'h-6 px-2 py-0 text-xs gap-1.5', leadingIcon: 'size-3.5', trailingIcon: 'size-3.5' },
        md: { base: 'h-7 px-2.5 py-0 text-sm/4 gap-1.5', leadingIcon: 'size-3.5', trailingIcon: 'size-3.5' },
      },
    },
    compoundVariants: [
      { color: 'primary', variant: 'outline', class: 'bg-default text-default ring-accented hover:bg-default active:bg-elevated hover:ring-inverted' },
      { color: 'error', variant: 'outline', class: 'bg-default ring-error hover:bg-(--brickbg)' },
      { color: ['primary', 'error'], variant: 'solid', class: 'hover:opacity-90 active:opacity-80' },
      { color: 'primary', variant: 'ghost', class: 'text-default hover:bg-(--sel)' },
      { color: 'error', variant: 'ghost', class: 'hover:bg-(--brickbg)' },
      // Chosen among several: a site, a page, a filter.
      { color: 'primary', variant: 'soft', class: 'bg-(--sel) text-default ring ring-inset ring-inverted hover:bg-(--sel)' },
      { variant: 'link', class: 'px-1 hover:underline underline-offset-2' },
      // Nothing to do now: it keeps its place and its focus (aria-disabled), loses ink and ground.
      { class: 'disabled:opacity-100 aria-disabled:opacity-100 disabled:text-muted aria-disabled:text-muted aria-disabled:cursor-default' },
      { variant: ['solid', 'outline'], class: 'disabled:bg-transparent aria-disabled:bg-transparent disabled:ring disabled:ring-inset aria-disabled:ring aria-disabled:ring-inset disabled:ring-default aria-disabled:ring-default' },
      { square: true, size: 'md', class: 'size-7 p-0 justify-center' }, { square: true, size: 'sm', class: 'size-6 p-0 justify-center' }, { square: true, size: 'xs', class: 'size-5 p-0 justify-center' },
    ],
    defaultVariants: { variant: 'outline' },
  },

  // `lg` is a heading that is typed: the question of a plan, the name of a journey.
  input: { variants: { size: { ...field(), lg: { base: 'h-6 px-1 py-0 -ms-1 font-semibold text-ellipsis' } } }, compoundVariants: [...ICON_ROOM, { class: { base: EDGE } }, { size: 'lg', class: { base: 'text-[18px]/[22px] md:text-[18px]/[22px]' } }] },
  // Only where a number is plain; elsewhere NumberInput.vue, which knows a comma.
  inputNumber: {
    variants: { size: FIELD },
    compoundVariants: [
      { class: { base: `${EDGE} text-start` } },
      { orientation: 'vertical', class: { increment: 'scale-100 h-1/2 pe-px [&>button]:h-3', decrement: 'scale-100 h-1/2 pe-px [&>button]:h-3' } },
      { increment: true, size: 'md', class: 'pe-7' },
    ],
    // A wheel would change it unseen, snapping turns 1250 into 1251 (steps of 10 from 1), grouping writes a comma.
    defaultVariants: { orientation: 'vertical', increment: false, decrement: false, disableWheelChange: true, stepSnapping: false, formatOptions: { useGrouping: false } },
  },
  textarea: { slots: { root: 'w-full' }, variants: { size: { sm: { base: 'px-1.5 py-1 text-xs' }, md: { base: 'px-2 py-1.5 text-sm' } } }, compoundVariants: [{ class: { base: EDGE } }] },
  select: list,
  selectMenu: { ...list, slots: { ...list.slots, input: 'border-b border-default' } },
  inputMenu: list,
  inputDate: date('data-[segment=day]:w-auto data-[segment=month]:w-auto data-[segment=year]:w-auto data-[segment=hour]:ms-1'),
  inputTime: date('not-data-[segment=literal]:w-auto'),

  checkbox: {
    slots: { base: 'rounded-sm hover:ring-inverted', label: 'font-normal', description: 'text-xs' },
    variants: { size: { md: { base: 'size-3.5', icon: 'size-3', container: 'h-[18px]', wrapper: 'text-sm' }, sm: { base: 'size-3.5', icon: 'size-3' } }, disabled: { true: { root: 'opacity-100', label: 'text-muted' } } },
  },
  // A radio is round as a radio is; what is chosen is a dot, not a filled disc.
  radioGroup: {
    slots: { base: 'hover:ring-inverted', indicator: 'bg-transparent after:bg-primary', label: 'font-normal', legend: 'text-xs font-normal text-muted mb-1', description: 'text-xs' },
    variants: {
      size: { md: { base: 'size-3.5', container: 'h-[18px]', item: 'text-sm', legend: 'text-xs', fieldset: 'gap-x-4 gap-y-1', indicator: 'after:size-1.5' } },
      disabled: { true: { item: 'opacity-100', label: 'text-muted' } },
    },
    compoundVariants: [{ color: 'primary', class: { indicator: 'bg-transparent' } }, { variant: ['card', 'table'], class: { item: `${WHOLE_FOCUS} p-2.5 has-data-[state=checked]:bg-(--sel) has-data-[state=checked]:border-inverted` } }],
  },
  // No pill: a slot with a block in it. On is petrol and at the right.
  switch: {
    slots: { base: 'rounded-sm border-0 p-0.5 ring ring-inset ring-accented data-[state=unchecked]:bg-default data-[state=checked]:ring-primary', thumb: 'rounded-xs shadow-none transition-none data-[state=unchecked]:bg-(--edge) data-[state=checked]:bg-(--onact)', label: 'font-normal', description: 'text-xs' },
    variants: { size: { md: { base: 'w-7', container: 'h-[18px]', thumb: 'size-3 data-[state=checked]:translate-x-3', wrapper: 'text-sm' }, sm: { base: 'w-7', thumb: 'size-3 data-[state=checked]:translate-x-3' } }, disabled: { true: { root: 'opacity-100', label: 'text-muted', base: 'opacity-60' } } },
  },
  slider: {
    slots: { track: 'rounded-none bg-accented', range: 'rounded-none', thumb: 'rounded-xs ring ring-inset ring-inverted bg-default' },
    variants: { size: { md: { thumb: 'h-4 w-2' } }, color: { primary: { range: 'bg-inverted', thumb: 'ring-inverted' } } },
    compoundVariants: [{ orientation: 'horizontal', size: 'md', class: { track: 'h-[3px]' } }],
  },
  formField: {
    // Grid children do not shrink below their content unless told: a long choice pushed the column wide.
    slots: { root: 'min-w-0', label: 'font-normal text-muted', labelWrapper: 'min-h-4', hint: 'text-xs', description: 'text-xs', help: 'mt-1 text-xs', error: 'mt-1 text-xs' },
    variants: { size: { sm: { root: 'text-xs' }, md: { root: 'text-xs' } }, orientation: { vertical: { container: 'mt-0.5 *:w-full' }, horizontal: { root: 'items-center gap-1.5 justify-start' } }, required: { true: { label: 'after:text-muted' } } },
  },
  fieldGroup: { base: 'gap-0' },

  // Screens of one place are links with an address (PlaceTabs); these are views of one thing.
  tabs: {
    slots: { root: 'gap-3', list: 'p-0 gap-4', indicator: 'rounded-none transition-none', trigger: 'rounded-none', leadingIcon: 'size-3.5', content: 'rounded-none', trailingBadge: 'ms-0' },
    variants: { size: { md: { trigger: 'px-0 py-1.5 text-sm gap-1.5' }, sm: { trigger: 'px-0 py-1 text-xs' } } },
    compoundVariants: [
      { orientation: 'horizontal', variant: 'link', class: { list: 'mb-0 justify-start', indicator: 'h-0.5', trigger: 'justify-start' } },
      { color: 'primary', variant: 'link', class: { indicator: 'bg-inverted', trigger: 'data-[state=active]:text-default' } },
      { variant: 'pill', class: { list: 'w-fit p-0 gap-0 rounded-md bg-default ring ring-inset ring-accented', indicator: 'inset-y-0 rounded-md shadow-none bg-(--sel) ring ring-inset ring-inverted', trigger: 'grow-0 px-2.5 py-1 data-[state=active]:text-default' } },
    ],
    defaultVariants: { variant: 'link' },
  },
  // Rows of 29 px with their hairline: 22 in 650 px. Heads are quiet; sticky ones are opaque.
  table: {
    slots: {
      base: 'border-collapse', thead: 'bg-default', th: 'h-7 px-2.5 py-0 text-xs font-normal text-muted whitespace-nowrap', td: 'h-7 px-2.5 py-[5px] text-sm text-default',
      tr: 'data-[selected=true]:bg-(--sel)', tbody: '[&>tr]:data-[selectable=true]:hover:bg-elevated [&>tr]:data-[selectable=true]:cursor-pointer [&>tr]:data-[selectable=true]:-outline-offset-2',
      separator: 'bg-(--ui-border-accented)', empty: 'px-2.5 py-3 text-start', loading: 'px-2.5 py-3 text-start',
    },
    variants: { sticky: { true: { thead: 'bg-default backdrop-blur-none', tfoot: 'bg-default backdrop-blur-none' }, header: { thead: 'bg-default backdrop-blur-none' } }, pinned: { true: { th: 'bg-default', td: 'bg-default' } } },
    compoundVariants: [{ loading: true, class: { thead: 'after:h-0.5' } }],
  },

  modal: {
    slots: { ...dialog, content: 'divide-default' },
    variants: { fullscreen: { false: { content: 'max-w-xl rounded-md ring-accented shadow-quiet' } }, overlay: { true: { overlay: VEIL } } },
    defaultVariants: { transition: false, content: { onOpenAutoFocus: focusFirst } },
  },
  slideover: {
    slots: { ...dialog, overlay: VEIL, content: 'sm:ring-accented sm:shadow-quiet' },
    variants: { side: { right: { content: 'max-w-[480px]' }, left: { content: 'max-w-[480px]' } } },
    defaultVariants: { transition: false },
  },
  popover: { slots: { content: `${SHEET} max-w-96 text-sm` } },
  // Tooltips say a sentence where one is needed; as delivered they would cut it at one line.
  tooltip: { slots: { content: `${SHEET} data-[state=delayed-open]:animate-none h-auto min-h-6 max-w-80 px-2 py-1 text-xs`, text: 'whitespace-normal text-clip', kbds: 'inline-flex not-first-of-type:before:content-none' } },
  dropdownMenu: menu,
  contextMenu: menu,

  // Broken is solid, held is open, always with the word; nothing under 11 px.
  badge: {
    slots: { base: 'rounded-sm font-semibold whitespace-nowrap' },
    variants: { size: { sm: { base: 'h-4 px-1 py-0 text-[11px]/[14px] rounded-sm' }, md: { base: 'h-[18px] px-1.5 py-0 text-[11px]/[14px] rounded-sm', leadingIcon: 'size-3' } } },
    compoundVariants: [
      { variant: 'outline', color: 'success', class: 'ring-success' }, { variant: 'outline', color: 'error', class: 'ring-error' }, { variant: 'outline', color: 'warning', class: 'ring-warning' },
      { variant: 'solid', color: 'success', class: 'bg-transparent text-success ring ring-inset ring-success' },
    ],
    defaultVariants: { color: 'neutral', variant: 'outline' },
  },
  // A key cap takes the ink of where it stands: in a line, on petrol, on what is switched off.
  kbd: {
    base: 'normal-case font-mono font-medium border border-b-2 border-current/40 px-1 h-4 min-w-4 text-[10.5px]/[11px] rounded-[3px]',
    variants: { size: { md: 'h-4 min-w-4 text-[10.5px]/[11px]', sm: 'h-4 min-w-4 text-[10.5px]/[11px]' } },
    compoundVariants: [{ class: 'ring-0 bg-transparent text-current' }],
  },
  // Ink on a sunk rule; saffron and brick by colour. It never stands without its figure.
  progress: {
    slots: { base: 'rounded-none bg-accented', indicator: 'rounded-none transition-none', status: 'text-xs text-muted' },
    compoundVariants: [{ color: 'primary', class: { indicator: 'bg-inverted' } }, { orientation: 'horizontal', size: 'md', class: 'h-1.5' }],
  },
  // Nothing pulses: a sentence beside it says what is awaited, and since when.
  skeleton: { base: 'animate-none rounded-xs bg-accented/60' },

  alert: {
    slots: { root: 'rounded-md px-2.5 py-2 gap-2', title: 'text-sm text-default', description: 'text-sm text-default opacity-100', icon: 'size-4 mt-px', actions: 'gap-2', close: 'p-0 size-5' },
    variants: { title: { true: { description: 'mt-0' } }, orientation: { vertical: { actions: 'mt-2' } } },
    compoundVariants: [
      { color: 'error', class: { root: 'bg-(--brickbg) text-error ring ring-inset ring-error' } },
      { color: 'warning', class: { root: 'bg-default text-warning ring ring-inset ring-warning' } },
      { color: 'success', class: { root: 'bg-default text-success ring ring-inset ring-success' } },
      { color: ['primary', 'neutral'], class: { root: 'bg-default text-default ring ring-inset ring-accented' } },
    ],
    defaultVariants: { color: 'neutral', variant: 'outline' },
  },
  toast: {
    slots: { root: 'rounded-md ring-accented shadow-quiet px-3 py-2.5 gap-2', title: 'text-sm', description: 'text-sm', icon: 'size-4 mt-px', close: 'p-0 size-5' },
    variants: { title: { true: { description: 'mt-0' } }, color: { error: { root: 'ring-error' } } },
    defaultVariants: { color: 'neutral', progress: false },
  },
  // Above the sill, so that no act is covered.
  toaster: { slots: { viewport: 'sm:w-[360px]' }, variants: { position: { 'bottom-right': { viewport: 'right-3' } } }, compoundVariants: [{ position: ['bottom-left', 'bottom-center', 'bottom-right'], class: { viewport: 'bottom-14' } }] },

  // Big lists scroll (virtual tables); pages are for what a server hands out page by page.
  pagination: { slots: { list: 'gap-1', label: 'min-w-4 tabular-nums' }, defaultVariants: { variant: 'ghost', color: 'primary', activeVariant: 'soft', activeColor: 'primary', size: 'sm' } },
  fileUpload: {
    slots: { base: 'rounded-md border-accented bg-default transition-none hover:border-inverted', label: 'mt-0 font-medium', description: 'mt-0 text-xs', actions: 'mt-2', icon: 'size-3.5', avatar: 'hidden' },
    variants: {
      variant: { area: { base: 'p-3', wrapper: 'px-2 py-1' } }, dropzone: { true: 'data-[dragging=true]:bg-(--sel)' },
      size: { md: { base: 'text-sm gap-1', file: 'text-sm px-2 py-0 h-7 gap-2', fileWrapper: 'flex-row gap-2 items-baseline', fileSize: 'text-xs' } },
      layout: { list: { files: 'gap-1', file: 'border-default', fileLeadingAvatar: 'hidden' } },
    },
    compoundVariants: [{ color: 'primary', class: 'focus-visible:border-inverted' }],
    defaultVariants: { layout: 'list' },
  },
  breadcrumb: {
    slots: { list: 'gap-1', link: 'text-xs gap-1', linkLeadingIcon: 'size-3.5', separatorIcon: 'size-3' },
    variants: { active: { true: { link: 'font-normal' }, false: { link: 'font-normal hover:underline underline-offset-2' } } },
    compoundVariants: [{ color: 'primary', active: true, class: { link: 'text-default' } }],
  },
  calendar: {
    slots: { body: 'pt-1 space-y-0', headingLabel: 'p-1 text-sm', headCell: 'rounded-none font-normal', grid: 'space-y-0', gridWeekDaysRow: 'mb-0', cellTrigger: 'm-0' },
    variants: { view: { day: { cellTrigger: 'rounded-sm' } }, color: { primary: { headCell: 'text-muted' } } },
    compoundVariants: [
      { size: 'md', view: 'day', class: { cellTrigger: 'size-7' } },
      { color: 'primary', variant: 'soft', class: { cellTrigger: 'data-selected:bg-(--sel) data-selected:text-default data-selected:font-semibold data-selected:ring data-selected:ring-inset data-selected:ring-inverted data-highlighted:bg-(--sel) hover:not-data-selected:bg-(--sel) data-today:not-data-selected:text-default data-today:underline data-today:underline-offset-3' } },
    ],
    defaultVariants: { variant: 'soft' },
  },
  commandPalette: {
    slots: { input: 'px-1', itemTrailingKbds: 'inline-flex', itemLabelBase: '[&>mark]:bg-transparent [&>mark]:underline', itemDescription: 'text-xs' },
    variants: { size: { md: { input: '[&>input]:h-9', item: ROW, ...ROW_PARTS, itemTrailingKbdsSize: 'sm' } } },
    compoundVariants: [{ active: false, class: { item: 'data-highlighted:not-data-disabled:before:bg-(--sel)' } }],
  },
  // What belongs here, in a sentence, at the left where lists begin; and the first step. No picture.
  empty: {
    slots: { root: 'items-start gap-2 rounded-md px-0 py-2 sm:p-0 sm:py-2 lg:p-0 lg:py-2', header: 'items-start gap-0.5 max-w-[64ch] text-start', title: 'font-semibold', description: 'text-start text-sm', body: 'items-start', actions: 'justify-start' },
    variants: { size: { md: { title: 'text-sm', description: 'text-sm' } } },
    defaultVariants: { variant: 'naked' },
  },
  splitter: {
    slots: { handle: 'before:absolute before:bg-border hover:before:bg-(--edge) data-[resize-handle-state=drag]:before:bg-inverted focus-visible:before:bg-primary' },
    variants: { orientation: { horizontal: { handle: 'w-3 before:inset-y-0 before:left-1/2 before:w-px' }, vertical: { handle: 'h-3 before:inset-x-0 before:top-1/2 before:h-px' } } },
  },

  separator: { slots: { label: 'text-xs text-muted' } },
  avatar: { slots: { root: 'rounded-sm' } },
  accordion: { slots: { trigger: 'py-1.5 rounded-none', trailingIcon: 'size-3.5 transition-none', body: 'pb-2', content: 'data-[state=open]:animate-none data-[state=closed]:animate-none' } },
  collapsible: { slots: { content: 'data-[state=open]:animate-none data-[state=closed]:animate-none' } },
  link: { base: 'rounded-xs' },
  tree: { slots: { link: 'rounded-none' } },
} satisfies Record<string, Part>

export default defineAppConfig({
  ui: {
    // Colours are tokens. These scales answer for numbered shades (`bg-primary-500`), of which none is used.
    colors: { primary: 'teal', success: 'teal', warning: 'stone', error: 'stone', neutral: 'stone' },
    // Parts that its types do not list.
    ...parts as object,
  },
})

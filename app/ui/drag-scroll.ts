/** Scrolls while dragging only right at the edge: sooner, cells slide away under the pointer that aims at them. */
export const AT_THE_EDGE = { threshold: { x: 0.04, y: 0.06 } }

/** Sides of every mip level, each half the one before and at least 1. Source: Vulkan 1.3, section 12.3. */
export function mipSides(width: number, height: number): [number, number][] {
  const sides: [number, number][] = [[width, height]]
  while (width > 1 || height > 1) {
    width = Math.max(1, width >> 1)
    height = Math.max(1, height >> 1)
    sides.push([width, height])
  }
  return sides
}

import { setsOfFiles } from './sets-of-files'

const placed = (path: string) => {
  const parts = path.split('/')
  return { folders: parts.slice(0, -1), file: new File(['x'], parts.at(-1)!) }
}
const told = (...paths: string[]): string[] =>
  setsOfFiles(paths.map(placed)).map(({ name, files }) => `${name}: ${files.map((file) => file.name).join(' ')}`)

test('files of one folder are a set that is called as it; others than images are left out', () =>
  expect(told('old/crate/b.png', 'old/crate/a.tga', 'old/crate/maps.txt', 'old/wall/a.dds', 'old/readme.md')).toEqual([
    'crate: a.tga b.png',
    'wall: a.dds',
  ]))

test('loose files are one set, called by what their names begin with', () => {
  expect(told('wall_colour.png', 'wall_normal.png')).toEqual(['wall: wall_colour.png wall_normal.png'])
  expect(told('Old wall-roughness.png')).toEqual(['Old wall: Old wall-roughness.png'])
  expect(told('a.png', 'b.png')).toEqual(['Maps: a.png b.png'])
})

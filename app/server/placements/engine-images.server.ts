import type { ImageLoader } from '#core/engine/pyramids'
import { library } from '../assets/assets.server'
import { meshDataImage } from '../models/mesh-data.server'

/** All that documents read by name: images of the library by content, and mesh data of parts. */
export const engineImages: ImageLoader = {
  load: (name) => (name.startsWith('mesh-data:') ? meshDataImage(name) : library.load(name)),
}

/** A project on the page of all projects. */
export interface ProjectCard {
  readonly id: string
  readonly name: string
  readonly changedAt: string
  readonly documents: number
  readonly deliveries: number
  readonly running: number
  readonly failed: number
  /** The document whose picture stands for the project, and the picture's revision. */
  readonly pictureOf: string | null
  readonly pictureRevision: number | null
}

/** A project with its materials. */
export interface ProjectPage {
  readonly id: string
  readonly name: string
  readonly documents: readonly {
    id: string
    name: string
    head: number
    changedAt: string
    /** Whether it is for tiles or for parts. */
    over: 'tile' | 'part'
    metres: [number, number]
    layers: number
    nodes: number
    pictureRevision: number | null
    /** Words by which it is found. */
    tags: string[]
  }[]
}

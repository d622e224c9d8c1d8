/** What a new material may begin with. */
export interface StartCard {
  readonly id: string
  readonly name: string
  readonly about: string
  /** Address of its picture; null where it has none. */
  readonly picture: string | null
}

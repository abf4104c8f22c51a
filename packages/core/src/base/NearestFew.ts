/** The so many things nearest to something, the nearest first; of two as near the one of the lower number. */
export class NearestFew {
  readonly numbers: number[] = []
  /** How far each is. */
  readonly far: number[] = []
  private readonly most: number

  constructor(most: number) {
    this.most = most
  }

  /** What is farther than this need not be offered; Infinity as long as there is room. */
  get bound(): number {
    return this.far.length < this.most ? Infinity : this.far[this.most - 1]!
  }

  offer(number: number, distance: number): void {
    const { numbers, far } = this
    let place = far.length
    while (place > 0 && (far[place - 1]! > distance || (far[place - 1] === distance && numbers[place - 1]! > number)))
      place--
    if (place >= this.most) return
    numbers.splice(place, 0, number)
    far.splice(place, 0, distance)
    if (far.length <= this.most) return
    numbers.pop()
    far.pop()
  }
}

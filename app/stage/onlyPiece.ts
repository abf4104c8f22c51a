import type { DrawPiece, FigureView } from '../workers/protocol'

/** A figure of which only one piece is drawn, with the piece as it lies in it. */
export function onlyPiece(view: FigureView, piece: DrawPiece): { view: FigureView; piece: DrawPiece } {
  const { start, count } = piece
  const only = { ...piece, start: 0 }
  return {
    piece: only,
    view: {
      ...view,
      topology: `${view.topology} only ${piece.instance}`,
      mesh: { ...view.mesh, indices: view.mesh.indices.slice(start, start + count) },
      pieces: [only],
    },
  }
}

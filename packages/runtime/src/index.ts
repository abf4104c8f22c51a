export { DressedFigure, type FigureOptions } from './DressedFigure.ts'
export { Assembly, weightOf, weightsOf, type Active, type AssembledMesh } from './Assembly.ts'
export { brokenRule, nothingEarned, settle, shuffleLook, startLook, tryOn, type Earned, type Settled } from './looks.ts'
export { lookFromText, lookToText } from './lookText.ts'
export {
  readManifest,
  PACKAGE_VERSION,
  type BodyEntry,
  type Look,
  type OptionEntry,
  type PackageFile,
  type PackageManifest,
  type RuleEntry,
  type SlotEntry,
  type Told,
} from './manifest.ts'
export { readPieces, type Moves, type Patch, type Piece, type PieceLevel } from './Piece.ts'
export { Glb } from './readGlb.ts'
export { Springs } from './Springs.ts'
export { readFrom, Wardrobe, type Fitting, type OpenBody, type ReadFile } from './Wardrobe.ts'

import { expect, it } from 'vitest'
import { newTarget, readTarget } from '@idle-tinker/core'
import { GLTF_STYLES, withGltfStyle } from './gltfStyles'

it('says of a target’s glTF files what is not as usual, and nothing else', () => {
  const plain = newTarget('a', 'A')
  for (const { key, options } of GLTF_STYLES)
    for (const { id } of options) {
      const target = withGltfStyle(plain, key, id)
      expect(readTarget(target, 'a').problems).toEqual([])
      expect(target.gltf).toEqual(id === options[0].id ? undefined : { [key]: id })
      expect(withGltfStyle(target, key, options[0].id)).toEqual(plain)
    }
  const both = withGltfStyle(withGltfStyle(plain, 'vertices', 'packed'), 'clips', 'apart')
  expect(both.gltf).toEqual({ vertices: 'packed', clips: 'apart' })
  expect(withGltfStyle(both, 'clips', 'together').gltf).toEqual({ vertices: 'packed' })
})

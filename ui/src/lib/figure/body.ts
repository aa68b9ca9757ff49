import {
  CapsuleGeometry,
  Color,
  Group,
  LatheGeometry,
  Matrix4,
  Mesh,
  MeshLambertMaterial,
  Quaternion,
  SphereGeometry,
  Vector2,
  Vector3,
  type BufferGeometry,
  type Material,
} from 'three'
import type { Pose } from './motion'

/** What a limb is made of: its two ends, their radii as shares of stature, and whether it is bare. */
type Limb = readonly [from: string, to: string, start: number, end: number, bare?: boolean]

const SIDES = ['left', 'right'] as const
const LIMBS: readonly Limb[] = SIDES.flatMap((side): Limb[] => [
  [`${side}_hip`, `${side}_knee`, 0.062, 0.045],
  [`${side}_knee`, `${side}_ankle`, 0.044, 0.03],
  [`${side}_ankle`, `${side}_toe`, 0.024, 0.014, true],
  [`${side}_heel`, `${side}_toe`, 0.019, 0.013, true],
  [`${side}_shoulder`, `${side}_elbow`, 0.044, 0.036],
  [`${side}_elbow`, `${side}_wrist`, 0.036, 0.022],
  [`${side}_wrist`, `${side}_hand`, 0.02, 0.024, true],
])
const UP = new Vector3(0, 1, 0)
const SKIN = new Color('#c79b7b')
const HAIR = new Color('#2a211c')

/** A rounded, tapered limb along +y from the origin; radii and length in metres. */
function limbShape(start: number, end: number, length: number): BufferGeometry {
  const outline: Vector2[] = []
  const steps = 8
  for (let i = 0; i <= steps; i++) {
    const a = (Math.PI / 2) * (i / steps)
    outline.push(new Vector2(Math.max(1e-4, start * Math.sin(a)), -start * Math.cos(a)))
  }
  for (let i = 0; i <= steps; i++) {
    const a = (Math.PI / 2) * (i / steps)
    outline.push(new Vector2(Math.max(1e-4, end * Math.cos(a)), length + end * Math.sin(a)))
  }
  return new LatheGeometry(outline, 18)
}

/** One body as solid parts, placed anew for each pose. */
export class Body {
  readonly group = new Group()
  private readonly limbs: { mesh: Mesh; limb: Limb }[]
  private readonly parts: { mesh: Mesh; place: (pose: Pose) => void }[] = []
  private readonly h: number

  constructor(stature: number, colour: string, first: Pose) {
    this.h = stature
    const cloth = new MeshLambertMaterial({ color: new Color(colour) })
    const skin = new MeshLambertMaterial({ color: SKIN })
    const dark = new MeshLambertMaterial({ color: new Color(colour).multiplyScalar(0.45) })
    const hair = new MeshLambertMaterial({ color: HAIR })
    this.limbs = LIMBS.map((limb) => {
      const [from, to, start, end, bare] = limb
      const length = place(first, from).distanceTo(place(first, to))
      const mesh = new Mesh(limbShape(start * stature, end * stature, length), bare ? skin : cloth)
      return { mesh, limb }
    })
    this.ellipsoid('pelvis', cloth, [0.088, 0.098, 0.118], (pose, axes) =>
      between(pose, 'left_hip', 'right_hip').addScaledVector(axes.up, -0.01 * stature),
    )
    this.ellipsoid('chest', cloth, [0.07, 0.115, 0.098], (pose) =>
      between(pose, 'left_hip', 'right_hip').lerp(between(pose, 'left_shoulder', 'right_shoulder'), 0.4),
    )
    this.ellipsoid('chest', cloth, [0.078, 0.115, 0.112], (pose, axes) =>
      between(pose, 'left_shoulder', 'right_shoulder').addScaledVector(axes.up, -0.07 * stature),
    )
    this.ellipsoid('pelvis', dark, [0.085, 0.02, 0.112], (pose) =>
      between(pose, 'left_hip', 'right_hip').lerp(between(pose, 'left_shoulder', 'right_shoulder'), 0.18),
    )
    this.ellipsoid('head', skin, [0.05, 0.062, 0.042], (pose, axes) =>
      between(pose, 'left_ear', 'right_ear').addScaledVector(axes.forward, 0.012 * stature),
    )
    this.ellipsoid('head', hair, [0.054, 0.056, 0.046], (pose, axes) =>
      between(pose, 'left_ear', 'right_ear')
        .addScaledVector(axes.forward, -0.012 * stature)
        .addScaledVector(axes.up, 0.014 * stature),
    )
    // A nose says which way a head is turned.
    this.ellipsoid('head', skin, [0.014, 0.014, 0.009], (pose) => place(pose, 'nose'))
    this.neck(skin)
    this.shoulders(cloth)
    this.group.add(...this.limbs.map(({ mesh }) => mesh), ...this.parts.map(({ mesh }) => mesh))
    for (const child of this.group.children) child.castShadow = true
  }

  /** Move every part to where a pose has it. */
  show(pose: Pose): void {
    for (const { mesh, limb } of this.limbs) along(mesh, place(pose, limb[0]), place(pose, limb[1]))
    for (const part of this.parts) part.place(pose)
  }

  dispose(): void {
    for (const child of this.group.children) {
      const mesh = child as Mesh
      mesh.geometry.dispose()
      ;(mesh.material as Material).dispose()
    }
  }

  /** An ellipsoid in the axes of a part: half axes forward, up and to the side as shares of stature. */
  private ellipsoid(
    part: 'pelvis' | 'chest' | 'head',
    material: Material,
    size: readonly [number, number, number],
    middle: (pose: Pose, axes: { forward: Vector3; up: Vector3 }) => Vector3,
  ): void {
    const mesh = new Mesh(new SphereGeometry(1, 20, 14), material)
    mesh.scale.set(size[0] * this.h, size[1] * this.h, size[2] * this.h)
    this.parts.push({
      mesh,
      place: (pose) => {
        const up = place(pose, `${part}_up`).normalize()
        const forward = place(pose, `${part}_forward`)
        forward.addScaledVector(up, -forward.dot(up)).normalize()
        const side = new Vector3().crossVectors(forward, up)
        mesh.position.copy(middle(pose, { forward, up }))
        mesh.quaternion.setFromRotationMatrix(new Matrix4().makeBasis(forward, up, side))
      },
    })
  }

  private neck(material: Material): void {
    const mesh = new Mesh(new CapsuleGeometry(0.032 * this.h, 0.06 * this.h), material)
    this.parts.push({
      mesh,
      place: (pose) => {
        const head = between(pose, 'left_ear', 'right_ear')
        const base = place(pose, 'neck')
        mesh.position.copy(base.clone().lerp(head, 0.3))
        mesh.quaternion.setFromUnitVectors(UP, head.sub(base).normalize())
      },
    })
  }

  private shoulders(material: Material): void {
    const mesh = new Mesh(new CapsuleGeometry(0.042 * this.h, 0.19 * this.h), material)
    this.parts.push({
      mesh,
      place: (pose) => {
        const [left, right] = [place(pose, 'left_shoulder'), place(pose, 'right_shoulder')]
        mesh.position.copy(left.clone().lerp(right, 0.5))
        mesh.quaternion.setFromUnitVectors(UP, right.sub(left).normalize())
      },
    })
  }
}

function place(pose: Pose, name: string): Vector3 {
  return new Vector3(...pose.at(name))
}

function between(pose: Pose, a: string, b: string): Vector3 {
  return place(pose, a).lerp(place(pose, b), 0.5)
}

function along(mesh: Mesh, from: Vector3, to: Vector3): void {
  mesh.position.copy(from)
  mesh.quaternion.copy(new Quaternion().setFromUnitVectors(UP, to.sub(from).normalize()))
}

import {
  AmbientLight,
  BufferGeometry,
  Color,
  DirectionalLight,
  GridHelper,
  HemisphereLight,
  Line,
  LineBasicMaterial,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  PCFShadowMap,
  PerspectiveCamera,
  PlaneGeometry,
  Scene,
  SphereGeometry,
  Vector3,
  WebGLRenderer,
} from 'three'
import { Body } from './body'
import { boxOf, poseAt, type Figure, type Vector } from './motion'

/** From where the figures are seen: turned from the side about the vertical, and lifted, degrees. */
export interface Eye {
  turn: number
  lift: number
}

/** What is pointed out on a figure: places in millimetres, joined by a line where that says something. */
export interface Pointed {
  places: readonly (readonly number[])[]
  joined: boolean
  missed: boolean
}

const VIEW_DEG = 26

/** One figure with its mat and light, ready to be drawn from any side. */
class Set {
  readonly scene = new Scene()
  private readonly bodies: Body[]
  private pointed: (Mesh | Line)[] = []

  constructor(
    private readonly figure: Figure,
    colours: Record<string, string>,
    middle: Vector3,
    mat: string,
  ) {
    this.bodies = figure.bodies.map(
      (body, i) => new Body(body.stature_m, colours[body.body] ?? '#777777', poseAt(figure, i, 0)),
    )
    for (const body of this.bodies) this.scene.add(body.group)
    const floor = new Mesh(new PlaneGeometry(14, 14), new MeshLambertMaterial({ color: new Color(mat) }))
    floor.position.set(middle.x, middle.y, -0.002)
    floor.receiveShadow = true
    const seams = new GridHelper(14, 14, 0x8b8578, 0x8b8578)
    seams.rotation.x = Math.PI / 2
    seams.position.set(Math.round(middle.x), Math.round(middle.y), 0)
    const sun = new DirectionalLight(0xffffff, 2.1)
    sun.position.set(middle.x + 1.2, middle.y - 2.4, 5)
    sun.target.position.copy(middle)
    sun.castShadow = true
    sun.shadow.mapSize.set(1024, 1024)
    Object.assign(sun.shadow.camera, { left: -2.5, right: 2.5, top: 2.5, bottom: -2.5, near: 0.5, far: 9 })
    this.scene.add(
      floor,
      seams,
      sun,
      sun.target,
      new HemisphereLight(0xffffff, 0xb5ab98, 1.5),
      new AmbientLight(0xffffff, 0.3),
    )
  }

  show(seconds: number, pointed: Pointed | null): void {
    this.bodies.forEach((body, i) => body.show(poseAt(this.figure, i, seconds)))
    this.scene.remove(...this.pointed)
    for (const old of this.pointed) old.geometry.dispose()
    this.pointed = pointed ? marksOf(pointed) : []
    if (this.pointed.length) this.scene.add(...this.pointed)
  }

  dispose(): void {
    for (const body of this.bodies) body.dispose()
  }
}

function marksOf({ places, joined, missed }: Pointed): (Mesh | Line)[] {
  const colour = missed ? 0xc8492b : 0x1d262b
  const at = places.map(([x = 0, y = 0, z = 0]) => new Vector3(x, y, z).divideScalar(1000))
  const marks: (Mesh | Line)[] = at.map((place) => {
    const ball = new Mesh(
      new SphereGeometry(0.026, 14, 10),
      new MeshBasicMaterial({ color: colour, depthTest: false, transparent: true }),
    )
    ball.position.copy(place)
    ball.renderOrder = 2
    return ball
  })
  if (joined && at.length > 1) {
    const line = new Line(
      new BufferGeometry().setFromPoints(at),
      new LineBasicMaterial({ color: colour, depthTest: false, transparent: true }),
    )
    line.renderOrder = 1
    marks.push(line)
  }
  return marks
}

/** A canvas on which one or several figures stand side by side, each drawn from its own eye. */
export class Stage {
  private readonly renderer: WebGLRenderer
  private readonly camera = new PerspectiveCamera(VIEW_DEG, 1, 0.1, 60)
  private readonly sets: Set[]
  private readonly middle: Vector3
  private readonly reach: { across: number; deep: number; high: number }

  /** Throws where the browser has no WebGL. */
  constructor(
    private readonly canvas: HTMLCanvasElement,
    figures: readonly Figure[],
    colours: Record<string, string>,
    mat: string,
  ) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true, alpha: false, preserveDrawingBuffer: true })
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2))
    this.renderer.shadowMap.enabled = true
    this.renderer.shadowMap.type = PCFShadowMap
    this.renderer.setClearColor(new Color(mat))
    const [low, high] = boxOf(figures)
    this.middle = new Vector3(...half(low, high))
    this.reach = { across: high[0] - low[0] + 0.35, deep: high[1] - low[1] + 0.35, high: high[2] - low[2] + 0.3 }
    this.sets = figures.map((figure) => new Set(figure, colours, this.middle, mat))
  }

  /** Draw each figure in its own part of the canvas. */
  draw(panes: readonly { figure: number; eye: Eye; seconds: number; pointed: Pointed | null }[]): void {
    const { clientWidth: width, clientHeight: height } = this.canvas
    if (!width || !height) return
    this.renderer.setSize(width, height, false)
    this.renderer.setScissorTest(true)
    const wide = width / panes.length
    panes.forEach((pane, i) => {
      const set = this.sets[pane.figure]
      if (!set) return
      set.show(pane.seconds, pane.pointed)
      this.aim(pane.eye, wide / height)
      this.renderer.setViewport(i * wide, 0, wide, height)
      this.renderer.setScissor(i * wide, 0, wide - (i < panes.length - 1 ? 2 : 0), height)
      this.renderer.render(set.scene, this.camera)
    })
  }

  dispose(): void {
    for (const set of this.sets) set.dispose()
    this.renderer.dispose()
    // A browser keeps few drawing contexts: this one is given back at once.
    this.renderer.forceContextLoss()
  }

  /** Far enough away that the whole movement is in the picture. */
  private aim(eye: Eye, aspect: number): void {
    const turn = (eye.turn * Math.PI) / 180
    const lift = (eye.lift * Math.PI) / 180
    const across = Math.abs(Math.cos(turn)) * this.reach.across + Math.abs(Math.sin(turn)) * this.reach.deep
    const deep = Math.abs(Math.sin(turn)) * this.reach.across + Math.abs(Math.cos(turn)) * this.reach.deep
    const high = Math.cos(lift) * this.reach.high + Math.sin(lift) * deep
    const away = Math.max(high, across / aspect) / 2 / Math.tan((VIEW_DEG * Math.PI) / 360) + deep / 2
    const flat = Math.cos(lift) * away
    this.camera.up.set(0, 0, 1)
    this.camera.position.set(
      this.middle.x + Math.sin(turn) * flat,
      this.middle.y - Math.cos(turn) * flat,
      this.middle.z + Math.sin(lift) * away,
    )
    this.camera.lookAt(this.middle)
    this.camera.aspect = aspect
    this.camera.updateProjectionMatrix()
  }
}

function half(a: Vector, b: Vector): [number, number, number] {
  return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2]
}

"""The path integrator: from the lens into the stage, and at every surface towards the light.

Unidirectional path tracing with next-event estimation, combined by multiple importance sampling (E. Veach, Robust Monte
Carlo Methods for Light Transport Simulation, 1997). At every vertex one ray goes to the sun, one to the sky, one to a
fixture and one to an emitting surface, where there are any; thin panes are passed straight and tint the light; solid
glass and water bend it, and what they gather comes from photons (photons.py) inside the region chosen for it.
The film adds luminance-scaled RGB in cd/m2 per light group.

Paths go on together, wave by wave: the rays of all of them are traced, one after the other; then each takes a step at what it
has met and leaves its questions towards light; then these are answered (S. Laine, T. Karras, T. Aila, Megakernels Considered
Harmful, 2013). So the code and the data of rays, surfaces and lights each stay in the processor's caches while they are used. A
path that waits is a row of `work.paths` (see layout), and nothing it does depends on the others.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.film import columns
from valleylight.core.jit.compiled import kernel, part
from valleylight.core.jit.held import held
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Address, Segment, Vertex
from valleylight.core.trace.bsdf.cover import levelled
from valleylight.core.trace.bsdf.paint import paint_at
from valleylight.core.trace.integrator.glass import at_pane, at_solid, carry, move, scattered_at, set_direction
from valleylight.core.trace.integrator.shafts import beams, through_air
from valleylight.core.trace.integrator.vertices import at_surface, first_surface, off_drop
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import camera_ray, fetch_record, meet
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.nextevent.catcher import share_unshaded
from valleylight.core.trace.nextevent.direct import (
    add,
    answer,
)
from valleylight.core.trace.nextevent.emission import from_beyond, given_off
from valleylight.core.trace.nextevent.passage import FAR, MAX_PANES, cut_out, may_let_by
from valleylight.core.trace.sampling.dimensions import (
    APERTURE,
    CATCH,
    FILM,
    MOMENT,
    of_sample,
    seed_of_step,
)
from valleylight.core.trace.sampling.sobol import hash32

U32, I64, F64 = np.uint32, np.int64, np.float64
#: While a path takes its step, what the one so many places after it has met is fetched.
AHEAD = 2
#: Pixels are taken block by block: what their paths meet lies near together.
BLOCK_WIDTH, BLOCK_HEIGHT = 8, 4


@part
def begin_sample(work, row, y, x):
    """Begin a sample of a pixel in a row."""
    own = work.samples
    own[row, 0], own[row, 1] = y, x
    for k in range(layout.SAMPLE_LIGHT, layout.SAMPLE_WIDTH):
        own[row, k] = 0.0


@part
def begin_path(work, row, sample, number, pixel, ox, oy, oz, dx, dy, dz):
    """Begin a path of a sample at the lens."""
    p = work.paths
    for k in range(layout.SCATTERED, layout.PATH_WIDTH):
        p[row, k] = 0.0
    move(p, row, ox, oy, oz)
    set_direction(p, row, dx, dy, dz)
    carry(p, row, 1.0, 1.0, 1.0)
    scattered_at(p, row, ox, oy, oz, 0.0)
    p[row, layout.MASK], p[row, layout.NUMBER], p[row, layout.PIXEL] = rays.BY_LENS, number, pixel
    p[row, layout.BRANCHES], p[row, layout.SAMPLE] = 1.0, sample
    p[row, layout.MEDIUM], p[row, layout.MIRRORED] = -1.0, 1.0


@kernel
def from_lens(work, row, y, x, index, pixel):
    """Begin sample `index` of a pixel in a row, with a path from the lens."""
    width, camera = F64(work.film.shape[1]), work.camera
    height, down = work.settings[layout.FRAME_HEIGHT], work.settings[layout.FRAME_Y]
    fu, fv = of_sample(index, pixel, FILM)
    lu, lv = of_sample(index, pixel, APERTURE) if camera[layout.CAMERA_LENS_RADIUS] > 0.0 else (0.0, 0.0)
    moves = (
        camera[layout.CAMERA_MOVES] != 0.0
        or camera[layout.CAMERA_MOVES + 1] != 0.0
        or camera[layout.CAMERA_MOVES + 2] != 0.0
    )
    moment = of_sample(index, pixel, MOMENT)[0] if moves else 0.0
    ox, oy, oz, dx, dy, dz = camera_ray(camera, x + fu, y + down + fv, width, height, lu, lv, moment)
    begin_sample(work, row, y, x)
    begin_path(work, row, row, index, pixel, ox, oy, oz, dx, dy, dz)
    work.paths[row, layout.MEDIUM] = work.settings[layout.LENS_IN]


@kernel
def step(scene, work, row, asked, used):
    """Take the path in a row on from what its ray has met. Returns whether it goes on, the questions now, the rows used, and rays
    spent on the way."""
    p, spent, zero = work.paths, I64(0), I64(0)
    p[row, layout.STEP] += 1.0
    number = int(p[row, layout.STEP])
    sample, index, pixel = int(p[row, layout.SAMPLE]), int(p[row, layout.NUMBER]), U32(p[row, layout.PIXEL])
    bounce, medium = int(p[row, layout.BOUNCE]), int(p[row, layout.MEDIUM])
    address = Address(index, pixel, number, bounce)
    mirrored, drifting, rough = (
        p[row, layout.MIRRORED] > 0.0,
        p[row, layout.DRIFTING] > 0.0,
        p[row, layout.ROUGHENED] > 0.0,
    )
    ox, oy, oz = p[row, layout.ORIGIN], p[row, layout.ORIGIN + 1], p[row, layout.ORIGIN + 2]
    dx, dy, dz = p[row, layout.TOWARDS], p[row, layout.TOWARDS + 1], p[row, layout.TOWARDS + 2]
    px, py, pz = p[row, layout.SCATTERED], p[row, layout.SCATTERED + 1], p[row, layout.SCATTERED + 2]
    tr, tg, tb = p[row, layout.LIGHT], p[row, layout.LIGHT + 1], p[row, layout.LIGHT + 2]
    # What the lens sees in mirrors and through glass is as bright as it is; chance finds are those after a rough surface.
    limit = 0.0 if mirrored else work.settings[layout.CLAMP]
    work.samples[sample, layout.REFLECTS] = work.samples[sample, layout.WILL_REFLECT]
    met = rays.recall(work, row)
    way = F64(work.ray[rays.FAR]) if met else FAR
    k, m, body, u, v, facing, eps, edge = zero, zero, zero, 0.0, 0.0, 0.0, 0.0, 1e9
    within = (0.0, 0.0)
    qx, qy, qz, gx, gy, gz, nx, ny, nz = 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 1.0
    if met:
        within = (F64(work.ray[rays.HIT_U]), F64(work.ray[rays.HIT_V]))
        k, m, body, u, v, qx, qy, qz, gx, gy, gz, nx, ny, nz, facing, eps, edge = meet(scene, work, dx, dy, dz, rough)
        if may_let_by(scene, m) and cut_out(scene, k, m, u, v):
            p[row, layout.SKIPPED] += 1.0
            p[row, layout.LINKED] = 0.0
            move(p, row, qx - gx * eps, qy - gy * eps, qz - gz * eps)
            return p[row, layout.SKIPPED] <= 4 * MAX_PANES, asked, used, spent

    if work.settings[layout.BEAMS] > 0.0 and mirrored:
        spent += beams(scene, work, sample, Segment(ox, oy, oz, dx, dy, dz, way, tr, tg, tb), address)
    if work.settings[layout.AIR_ON] > 0.0 and medium < 0:
        segment = Segment(ox, oy, oz, dx, dy, dz, way, tr, tg, tb)
        more, t, share = through_air(scene, work, asked, sample, segment, limit, address)
        spent += more
        if t >= 0.0:  # light goes on from a drop
            return off_drop(scene, work, row, t), asked, used, spent
        tr, tg, tb = tr * share, tg * share, tb * share

    if not met:
        if not drifting:
            gathered = p[row, layout.BENT] > 0.0 and not mirrored
            since = Segment(px, py, pz, dx, dy, dz, FAR, tr, tg, tb)
            from_beyond(
                scene, work, sample, since, p[row, layout.OPEN], p[row, layout.DENSITY], limit, gathered, mirrored
            )
        if p[row, layout.SEEN] <= 0.0:
            y, x = int(work.samples[sample, 0]), int(work.samples[sample, 1])
            work.passes[y, x, columns.PASS_COLOUR] += min(tr, 1.0)
            work.passes[y, x, columns.PASS_COLOUR + 1] += min(tg, 1.0)
            work.passes[y, x, columns.PASS_COLOUR + 2] += min(tb, 1.0)
            if bounce == 0 and not drifting and p[row, layout.BENT] <= 0.0:  # straight on, through panes at most
                work.passes[y, x, columns.PASS_BEYOND] += (tr + tg + tb) / 3.0
        return False, asked, used, spent

    kind = int(scene.materials[m, layout.KIND])
    vertex = Vertex(qx, qy, qz, gx, gy, gz, nx, ny, nz, -dx, -dy, -dz, eps)
    if kind == layout.PANE:
        carry(p, row, tr, tg, tb)
        return at_pane(scene, work, row, m, vertex), asked, used, spent
    if medium >= 0:
        e = layout.ABSORB
        tr *= math.exp(-way * scene.materials[medium, e])
        tg *= math.exp(-way * scene.materials[medium, e + 1])
        tb *= math.exp(-way * scene.materials[medium, e + 2])
    if bounce == 0 and work.settings[layout.HAZE_ON] > 0.0 and p[row, layout.HAZED] <= 0.0:
        # Once, on the way from the lens: what stands far off is seen through the same air as the sky.
        p[row, layout.HAZED] = 1.0
        hr, hg, hb, ar, ag, ab = daylight.haze_at(
            scene.haze, dx, dy, math.sqrt((qx - px) ** 2 + (qy - py) ** 2 + (qz - pz) ** 2)
        )
        add(work, sample, int(work.settings[layout.GROUP_SKY]), tr * ar, tg * ag, tb * ab, 0.0)
        tr, tg, tb = tr * hr, tg * hg, tb * hb
    carry(p, row, tr, tg, tb)
    if kind == layout.SOLID:
        return at_solid(scene, work, row, m, vertex, facing < 0.0), asked, used, spent

    density = p[row, layout.DENSITY]
    if scene.materials[m, layout.LIT] > 0.0 and not (drifting and density == 0.0):
        since = Segment(px, py, pz, dx, dy, dz, way, tr, tg, tb)
        given_off(scene, work, sample, k, m, within, since, vertex, abs(facing), density, mirrored, limit)
    p[row, layout.DRIFTING] = 0.0
    if not rough and scene.weather[layout.WEATHER_ON] > 0.0:
        nx, ny, nz = levelled(scene, m, vertex)
        vertex = Vertex(qx, qy, qz, gx, gy, gz, nx, ny, nz, -dx, -dy, -dz, eps)
    paint = paint_at(
        scene,
        m,
        u,
        v,
        vertex,
        edge,
        work.settings[layout.GROUND],
        work.settings[layout.SOFTEN] if rough else 0.0,
        rough,
    )
    if scene.objects[body, layout.OBJECT_SHADOW_ONLY] > 0.0 and mirrored:  # shows only the shadow on it
        more, w = share_unshaded(scene, work, vertex, seed_of_step(index, pixel, number, CATCH))
        carry(p, row, tr * w, tg * w, tb * w)
        p[row, layout.PANES] += 1.0
        move(p, row, qx - gx * eps, qy - gy * eps, qz - gz * eps)
        return p[row, layout.PANES] <= MAX_PANES and w > 0.0, asked, used, spent + more
    if p[row, layout.SEEN] <= 0.0:
        p[row, layout.SEEN] = 1.0
        first_surface(scene, work, row, k, m, body, vertex, paint)
    goes_on, asked, used = at_surface(scene, work, row, asked, used, k, m, body, vertex, paint, facing)
    return goes_on, asked, used, spent


@kernel
def follow_paths(scene, work, begun):
    """Follow the paths in the first rows, so many as have `begun`, and their branches to their ends. Returns the rays traced."""
    queue, alive, used, count = work.queue, begun, begun, I64(0)
    for k in range(begun):
        queue[k] = k
    while alive > 0:
        for k in range(alive):
            rays.look(scene.handle, work, queue[k], FAR)
        count += alive
        left, asked, before = I64(0), I64(0), used
        for k in range(alive):
            if k + AHEAD < alive:
                fetch_record(scene, work, queue[k + AHEAD])
            goes_on, asked, used, spent = step(scene, work, queue[k], asked, used)
            count += spent
            if goes_on:
                queue[left] = queue[k]
                left += 1
        for row in range(before, used):
            queue[left] = row
            left += 1
        count += answer(scene, work, I64(0), asked)
        alive = left
    return count


@kernel
def end_samples(work, begun):
    """Add what the passes keep of the samples in the first rows, all of whose paths have ended."""
    own, passes = work.samples, work.passes
    for row in range(begun):
        y, x, c = int(own[row, 0]), int(own[row, 1]), layout.SAMPLE_LIGHT
        luminance = 0.2126 * own[row, c] + 0.7152 * own[row, c + 1] + 0.0722 * own[row, c + 2]
        passes[y, x, columns.PASS_LUMINANCE] += luminance
        passes[y, x, columns.PASS_SQUARES] += luminance * luminance
        for k in range(3):
            passes[y, x, columns.PASS_REFLECTED + k] += own[row, layout.SAMPLE_REFLECTED + k]


@kernel
def render_tile(arrays, workbench, x0, y0, x1, y1, first_sample, last_sample):
    """Add samples first to last of the pixels of a tile. Returns the number of rays traced.

    `arrays` is a `SceneArrays`, `workbench` a `rays.Work` of this thread with the film to add to.
    """
    scene, work = held(arrays), held(workbench)
    width = workbench.film.shape[1]
    seed, down = hash32(U32(workbench.settings[layout.SEED])), int(workbench.settings[layout.FRAME_Y])
    count, begun = I64(0), I64(0)
    across, rows = (x1 - x0 + BLOCK_WIDTH - 1) // BLOCK_WIDTH, (y1 - y0 + BLOCK_HEIGHT - 1) // BLOCK_HEIGHT
    for block in range(across * rows):
        top, left = y0 + block // across * BLOCK_HEIGHT, x0 + block % across * BLOCK_WIDTH
        for y in range(top, min(top + BLOCK_HEIGHT, y1)):
            for x in range(left, min(left + BLOCK_WIDTH, x1)):
                pixel = hash32(U32(U32((y + down) * width + x) ^ seed))
                for index in range(first_sample, last_sample):
                    from_lens(work, begun, y, x, index, pixel)
                    begun += 1
                    if begun == layout.WAVE:
                        count += follow_paths(scene, work, begun)
                        end_samples(work, begun)
                        begun = I64(0)
    if begun > 0:
        count += follow_paths(scene, work, begun)
        end_samples(work, begun)
    return count

import { describe, expect, it } from 'vitest';
import { type ImageRole, imageSets, memberOf, normalsOf, roleWords, sayingOf, setOfImage, useOfName } from './imageSets.ts';

const named = (...names: string[]) => names.map((name, k) => ({ id: `i${k}`, name }));

describe('names of images', () => {
  it('say set and role by their endings, whatever parts them and whatever size stands among them', () => {
    const said: [string, string, string][] = [
      ['bark_color.png', 'bark', 'colour'],
      ['bark-Albedo.jpg', 'bark', 'colour'],
      ['bark 2k base color.png', 'bark', 'colour'],
      ['BarkBaseColor.png', 'Bark', 'colour'],
      ['old_bark_4096_height.webp', 'old bark', 'relief'],
      ['bark_Displacement_2K.png', 'bark', 'relief'],
      ['bark_normal_gl.png', 'bark', 'normal'],
      ['bark_normal_dx.png', 'bark', 'normal-green-down'],
      ['BarkNormalDX.png', 'Bark', 'normal-green-down'],
      ['bark.rough.png', 'bark', 'roughness'],
      ['bark_metallic.png', 'bark', 'metalness'],
      ['bark_ambient_occlusion.png', 'bark', 'occlusion'],
      ['bark_AO.png', 'bark', 'occlusion'],
      ['bark_opacity.png', 'bark', 'mask'],
      ['bark_ORM.png', 'bark', 'occlusion-roughness-metalness'],
      ['bark_2k_OcclusionRoughnessMetallic.png', 'bark', 'occlusion-roughness-metalness'],
      ['bark_metallicRoughness.png', 'bark', 'roughness-metalness'],
      ['bark rough metal.png', 'bark', 'roughness-metalness'],
      ['bark_color.1002.png', 'bark', 'colour'],
    ];
    for (const [name, set, role] of said) expect(useOfName(name), name).toEqual({ set, role });
  });

  it('that say no set or no role are in none', () => {
    for (const name of ['color.png', 'photo.png', 'colorful.png', 'bark_dx.png', '.png', '', '____.png', `${'a_'.repeat(500)}b`])
      expect(useOfName(name), name).toBeNull();
  });
});

describe('sets of images', () => {
  it('have at least two, in the order of their roles; names differ in case alone', () => {
    const sets = imageSets(named('bark_normal.png', 'leaf_color.png', 'Bark_color.png', 'photo.png'));
    expect(sets).toHaveLength(1);
    expect(sets[0]!.members.map(({ id, role }) => `${id} ${role}`)).toEqual(['i2 colour', 'i0 normal']);
  });

  it('what is said by hand goes before the name, also that it is in none', () => {
    const images = [
      { id: 'a', name: 'bark_color.png' },
      { id: 'b', name: 'photo.png', use: { set: 'BARK ', role: 'relief' as const } },
      { id: 'c', name: 'bark_normal.png', use: null },
    ];
    expect(setOfImage(images, 'b')!.members.map(({ id }) => id)).toEqual(['a', 'b']);
    expect(setOfImage(images, 'c')).toBeNull();
    expect(setOfImage(images, null)).toBeNull();
  });

  it('of tiles the one for the same tile is taken, of several the last', () => {
    const [set] = imageSets(
      named('bark_color.1001.png', 'bark_color.1002.png', 'bark_height.1001.png', 'bark_height.1002.png', 'bark_ao.png', 'bark_ao 2k.png'),
    );
    expect(memberOf(set!, 'relief', 'i1')!.id).toBe('i3');
    expect(memberOf(set!, 'relief', 'i0')!.id).toBe('i2');
    expect(memberOf(set!, 'occlusion', 'i0')!.id).toBe('i5');
    expect(memberOf(set!, 'metalness')).toBeNull();
  });

  it('normals with green up are taken before those with green down, which are normals all the same', () => {
    const [both] = imageSets(named('bark_color.png', 'bark_normal_dx.png', 'bark_normal.png'));
    expect(normalsOf(both!)).toMatchObject({ member: { id: 'i2' }, isGreenDown: false });
    const [down] = imageSets(named('bark_color.png', 'bark_normal_dx.png'));
    expect(normalsOf(down!)).toMatchObject({ member: { id: 'i1' }, isGreenDown: true });
    expect(normalsOf(imageSets(named('bark_color.png', 'bark_ao.png'))[0]!)).toBeNull();
    expect(roleWords('normal-green-down')).toBe('normal, green down');
    expect(roleWords('roughness-metalness')).toBe('roughness + metalness');
  });

  it('an image of its own says a role before one that holds several', () => {
    const [set] = imageSets(named('bark_color.png', 'bark_orm.png', 'bark_metalness.png', 'bark_normal.png'));
    const said = (role: ImageRole) => {
      const found = sayingOf(set!, role);
      return found && `${found.member.id} ${found.channel}`;
    };
    expect(said('metalness')).toBe('i2 all');
    expect(said('roughness')).toBe('i1 green');
    expect(said('occlusion')).toBe('i1 red');
    expect(said('normal')).toBe('i3 all');
    expect(said('relief')).toBeNull();
    const [pair] = imageSets(named('leaf_color.png', 'leaf_roughMetal.png'));
    expect(sayingOf(pair!, 'metalness')).toMatchObject({ channel: 'blue' });
    expect(sayingOf(pair!, 'occlusion')).toBeNull();
  });
});

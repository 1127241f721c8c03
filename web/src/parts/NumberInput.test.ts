import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import type { Schemas } from '../api/client'
import { takeSession } from '../session'
import { numberOf } from '../units'
import FigureField from './FigureField.vue'
import NumberInput from './NumberInput.vue'
import { unread } from './unread'

const units = (u: 'metric' | 'us') =>
  takeSession({ person_id: 'me', units: u } as unknown as Schemas['Session'])
beforeEach(() => units('metric'))

/** Types into the field as a person would, letter by letter, and gives what was passed on last. */
async function type(field: ReturnType<typeof mount>, text: string) {
  for (let i = 1; i <= text.length; i++) await field.get('input').setValue(text.slice(0, i))
  const told = field.emitted('update:modelValue')
  return told?.at(-1)?.[0]
}

describe('a figure', () => {
  it('is a number with a comma or a point, and stays as typed', async () => {
    const field = mount(NumberInput, { props: { modelValue: undefined, quantity: 'm' } })
    expect(await type(field, '2,40')).toBe(2.4)
    expect(field.get('input').element.value).toBe('2,40')
    expect(await type(field, '0.05')).toBe(0.05)
    expect(field.get('input').element.value).toBe('0.05')
  })
  it('that is no number is given on as text, so that the server can say so', async () => {
    const field = mount(NumberInput, { props: { modelValue: undefined } })
    expect(await type(field, '4 x')).toBe('4 x')
    await field.get('input').setValue('')
    expect(field.emitted('update:modelValue')!.at(-1)).toEqual([undefined])
  })
  it('is SI whatever is typed', async () => {
    units('us')
    const feet = mount(NumberInput, { props: { modelValue: undefined, quantity: 'm' } })
    expect(await type(feet, '10')).toBeCloseTo(3.048)
    const degrees = mount(NumberInput, { props: { modelValue: 4, quantity: 'degC' } })
    expect(degrees.get('input').element.value).toBe('39.2')
    expect(await type(degrees, '41')).toBeCloseTo(5)
  })
  it('shows what is put in from outside, but not while it is typed', async () => {
    const field = mount(NumberInput, { props: { modelValue: 1.5 } })
    await field.setProps({ modelValue: 7 })
    expect(field.get('input').element.value).toBe('7')
    await field.get('input').setValue('7.')
    await field.setProps({ modelValue: 7 })
    expect(field.get('input').element.value).toBe('7.')
  })
  it('with a label is a number or nothing', async () => {
    const field = mount(FigureField, { props: { modelValue: null, label: 'Minutes', unit: 'min' } })
    expect(await type(field, '35')).toBe(35)
    expect(await type(field, 'soon')).toBeNull()
    expect(field.text()).toContain('min')
  })
})

describe('a number as people write it', () => {
  it('is read with a point or a comma, and with spaces between thousands', () => {
    expect(['1.5', '1,5', ' 12 ', '1 000', '1 000,5', '−3'].map(numberOf)).toEqual([
      1.5, 1.5, 12, 1000, 1000.5, -3,
    ])
  })
  it('is none where it could be two, or is a slip', () => {
    for (const text of ['1.5.5', '1,000', '12 34', 'ten', '', '1 00']) expect(numberOf(text)).toBeNaN()
  })
})

describe('a figure that is no number', () => {
  it('stays as it was typed, is said, and comes back when its field does', async () => {
    const field = () =>
      mount(FigureField, {
        props: { label: 'Loaded', modelValue: 2, 'onUpdate:modelValue': () => undefined },
      })
    const one = field()
    await one.find('input').setValue('1.5.5')
    expect(one.find('input').element.value).toBe('1.5.5')
    expect(one.text()).toContain('“1.5.5” is not a number')
    expect(unread.get('Loaded')).toBe('1.5.5')
    one.unmount()
    const two = field()
    expect(two.find('input').element.value).toBe('1.5.5')
    await two.find('input').setValue('1,000')
    expect(two.text()).toContain('can be read in two ways: write 1000')
    await two.find('input').setValue('1.5')
    expect(unread.has('Loaded')).toBe(false)
  })
})

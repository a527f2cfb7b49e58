import { useQuery } from '@tanstack/react-query'
import { format, isSameDay, isSameYear } from 'date-fns'
import { useEffect, useState } from 'react'
import { client } from '../api/queries'
import type { Overview } from '../api/client'

/** How far the server's clock is ahead of this one: the demo's can be moved. */
export function serverNow(): Date {
  const overview = client.getQueryData<Overview>(['overview'])
  const read = client.getQueryState(['overview'])?.dataUpdatedAt
  if (!overview || !read) return new Date()
  return new Date(new Date(overview.now).getTime() + (Date.now() - read))
}

/** Draws anew as minutes go by, and when the server's clock becomes known or is
 * moved. */
export function useMinute() {
  useQuery({
    queryKey: ['overview'],
    enabled: false,
    select: (o: unknown) => Math.round((new Date((o as Overview).now).getTime() - Date.now()) / 60_000),
  })
  const [, tick] = useState(0)
  useEffect(() => {
    const timer = setInterval(() => tick((n) => n + 1), 30_000)
    return () => clearInterval(timer)
  }, [])
}

/** A short age: 5 min, 2 h, 3 d, 4 w. */
export function age(at: string): string {
  const minutes = Math.max(0, Math.floor((serverNow().getTime() - new Date(at).getTime()) / 60_000))
  if (minutes < 1) return 'now'
  if (minutes < 60) return `${minutes} min`
  const hours = Math.floor(minutes / 60)
  if (hours < 24) return `${hours} h`
  const days = Math.floor(hours / 24)
  if (days < 14) return `${days} d`
  if (days < 365) return `${Math.floor(days / 7)} w`
  return `${Math.floor(days / 365)} y`
}

/** How far the zone's clocks are from UTC, as the server says for the days about now. */
let spans: { of?: Overview['offsets']; list: { from: number; to: number; ms: number }[] } = { list: [] }

function offset(at: number, offsets: Overview['offsets']): number | undefined {
  if (spans.of !== offsets)
    spans = {
      of: offsets,
      list: offsets.map((o) => ({
        from: new Date(o.from).getTime(),
        to: new Date(o.to).getTime(),
        ms: o.minutes * 60_000,
      })),
    }
  return spans.list.find((s) => s.from <= at && at < s.to)?.ms
}

/** Making a formatter takes as long as drawing a page: it is made for what is far away,
 * and once. */
let walls: { zone: string; format: Intl.DateTimeFormat } | undefined

function wall(date: Date, zone: string): string {
  if (walls?.zone !== zone) {
    walls = {
      zone,
      format: new Intl.DateTimeFormat('en-US', {
        timeZone: zone,
        year: 'numeric',
        month: 'numeric',
        day: 'numeric',
        hour: 'numeric',
        minute: 'numeric',
        second: 'numeric',
      }),
    }
  }
  return walls.format.format(date)
}

/** The server speaks of times in the person's zone; the page shows clock times in it too. */
export function inZone(at: string | Date): Date {
  const overview = client.getQueryData<Overview>(['overview'])
  const date = new Date(at)
  const time = date.getTime()
  if (!overview || Number.isNaN(time)) return date
  const ms = offset(time, overview.offsets)
  if (ms === undefined) return new Date(wall(date, overview.zone))
  const there = new Date(time + ms)
  return new Date(
    there.getUTCFullYear(),
    there.getUTCMonth(),
    there.getUTCDate(),
    there.getUTCHours(),
    there.getUTCMinutes(),
    there.getUTCSeconds(),
  )
}

export const clock = (at: string | Date) => format(inZone(at), 'HH:mm')

/** A day and time in full, as short as it can be without doubt. */
export function stamp(at: string): string {
  const date = inZone(at)
  const now = inZone(serverNow())
  if (isSameDay(date, now)) return format(date, 'HH:mm')
  return format(date, isSameYear(date, now) ? 'EEE d MMM, HH:mm' : 'd MMM yyyy, HH:mm')
}

export const fullStamp = (at: string) => format(inZone(at), 'EEEE d MMMM yyyy, HH:mm')
/** These take a date without a time: 2006-01-02. */
export const dayAndMonth = (date: string) => format(`${date}T00:00`, 'd MMM')
export const longDate = (date: string) => format(`${date}T00:00`, 'EEE d MMM yyyy')
export const dayAndClock = (at: string) => format(inZone(at), 'EEE d MMM, HH:mm')
export const longDay = (at: string) => format(inZone(at), 'EEEE d MMMM')

export function size(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`
  if (bytes < 1_000_000) return `${Math.round(bytes / 1000)} kB`
  return `${(bytes / 1_000_000).toFixed(1)} MB`
}

import { laterBehind } from '../parts/later'
import { PersonFace, type PersonProps, ProjectFace } from './faces'

export const PersonMenu = laterBehind<PersonProps>(async () => (await import('./PersonMenu')).PersonMenu, PersonFace)
export const ProjectMenu = laterBehind<{ project: string }>(async () => (await import('./ProjectMenu')).ProjectMenu, ProjectFace)

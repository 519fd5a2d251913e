import { later } from '../parts/later'
import { PersonFace, type PersonProps, ProjectFace } from './faces'

export const PersonMenu = later<PersonProps>(async () => (await import('./PersonMenu')).PersonMenu, PersonFace)
export const ProjectMenu = later<{ project: string }>(async () => (await import('./ProjectMenu')).ProjectMenu, ProjectFace)

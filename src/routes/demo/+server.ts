import { json } from '@sveltejs/kit';
import { demoSite } from '$lib/server/demo';

/** The demo site that ships with the application. */
export const GET = () => json(demoSite());

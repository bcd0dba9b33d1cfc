import { json } from '@sveltejs/kit';
import { branchSite, demoSite } from '$lib/server/demo';

/** A demo site that ships with the application: the co-operative's, or with `?site=branch` that of its branch. */
export const GET = ({ url }: { readonly url: URL }) =>
  json(url.searchParams.get('site') === 'branch' ? branchSite() : demoSite());

import type { Api } from '../../platform/api.js';
import type { ModelReview } from './model-review.js';

/** @param requireModel the present name of a model connection @throws not_found */
export function toolReviewRoutes(api: Api, review: ModelReview, requireModel: (name: string) => string): void {
  api.on('toolReview', () => review.settings());
  api.on('setToolReview', ({ body }) => {
    review.choose(body.model === null ? null : requireModel(body.model));
    return review.settings();
  });
}

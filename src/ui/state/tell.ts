import { toast } from 'sonner';
import { ApiError } from './api';

/** Says a failure of an action in words. */
export function tell(error: unknown): void {
  toast.error(error instanceof ApiError && error.path ? `${error.path}: ${error.message}` : (error as Error).message);
}

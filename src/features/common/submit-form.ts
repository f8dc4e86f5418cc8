import type { FieldPath, FieldValues, UseFormReturn } from 'react-hook-form';
import type { ActionResult } from './action-result';
import { sayUnreached } from './server-unreached';

/**
 * Sends what a form holds, and says what comes back where it belongs: at its field, or for the whole form.
 *
 * @returns the answer's value; undefined where there was none
 */
export async function submitForm<V extends FieldValues, T>(
  { setError, getValues }: Pick<UseFormReturn<V>, 'setError' | 'getValues'>,
  work: () => Promise<ActionResult<T>>,
): Promise<{ value: T } | undefined> {
  const result = await work().catch(sayUnreached);
  if (result.ok) return { value: result.value };
  const { error, field } = result;
  const name = Object.keys(getValues()).find((own) => own === field?.name);
  if (field && name !== undefined) setError(name as FieldPath<V>, { message: field.problem });
  else setError('root', { message: `${error.happened} ${error.safe} ${error.todo}`.trim() });
  return undefined;
}

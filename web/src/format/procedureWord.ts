/** What runs of a procedure are called where its key alone would not tell. */
export const procedureWord = (key: string) => (key === 'command' ? 'own measures' : key)

/** Versions are found by what their file is called. */
export const fileNames = {
  name: '030-file-names',
  statements: ['ALTER TABLE versions ADD KEY by_file_name (file_name, document_id)'],
};

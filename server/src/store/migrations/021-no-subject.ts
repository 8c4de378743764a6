/** Documents of which a version has no subject are found by that too. */
export const noSubject = {
  name: '021-no-subject',
  statements: [
    `INSERT IGNORE INTO document_subjects (library_id, place, subject, document_id)
      SELECT DISTINCT d.library_id, 0, '', d.id FROM versions v JOIN documents d ON d.id = v.document_id
      WHERE COALESCE(JSON_LENGTH(v.fields, '$.subject'), 0) = 0`,
  ],
};

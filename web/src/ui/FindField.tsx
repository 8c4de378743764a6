import { Input } from 'antd';
import './FindField.css';

interface FindFieldProps {
  /** What is found: "an account". */
  what: string;
  /** By what of it: "name or account". */
  by: string;
  value: string;
  onChange: (sought: string) => void;
}

/** The field by which one of a long list is found. */
export const FindField = ({ what, by, value, onChange }: FindFieldProps) => (
  <Input
    allowClear
    className="find-field"
    aria-label={`Find ${what}`}
    placeholder={`Find by ${by}`}
    value={value}
    onChange={(event) => onChange(event.target.value)}
  />
);

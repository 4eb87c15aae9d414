/** One field of an account, and what is wanted of it. */
export interface Asked<K extends string> {
  key: K;
  label: string;
  type: string;
  complete: string;
  rules: object;
}

const required = "This is needed";

export const NAME: Asked<"name"> = {
  key: "name",
  label: "Your name, as pupils know you",
  type: "text",
  complete: "name",
  rules: { required },
};
export const EMAIL: Asked<"email"> = {
  key: "email",
  label: "Your e-mail",
  type: "email",
  complete: "username",
  rules: { required, pattern: { value: /^[^@\s]+@[^@\s]+$/, message: "This is no e-mail address" } },
};
export const PASSWORD: Asked<"password"> = {
  key: "password",
  label: "A password of ten letters or more",
  type: "password",
  complete: "new-password",
  rules: { required, minLength: { value: 10, message: "Ten letters at least" } },
};

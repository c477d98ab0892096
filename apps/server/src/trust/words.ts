import { applyDecorators } from '@nestjs/common';
import { Transform } from 'class-transformer';
import { IsNotEmpty, IsString, MaxLength } from 'class-validator';

/** A name somebody typed: what is around it goes, and it has to be something. */
export const IsName = (longest: number) =>
  applyDecorators(
    Transform(({ value }: { value: unknown }) =>
      typeof value === 'string' ? value.replace(/\p{Cc}/gu, '').trim() : value,
    ),
    IsString(),
    IsNotEmpty(),
    MaxLength(longest),
  );
